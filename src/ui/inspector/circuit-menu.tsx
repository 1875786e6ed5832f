'use client';

import { Ellipsis } from 'lucide-react';
import { newId } from '@/core/base/text/new-id';
import { openRole } from '@/core/derive/candidates/groups';
import { copyCircuit, removeNets } from '@/core/plan/edits/make-edits';
import type { Circuit } from '@/core/plan/model/types';
import { MenuButton } from '../parts/menu-button';
import { useActions, useDerived } from '../workspace/context';

/** What can be done with a whole circuit. */
export function CircuitMenu({ circuit }: { circuit: Circuit }) {
  const { derived } = useDerived();
  const { dispatch, mark } = useActions();
  const { plan, device } = derived;
  const nets = plan.nets.filter((net) => net.circuit === circuit.id);
  return (
    <MenuButton
      label={`Circuit ${circuit.name}`}
      icon={<Ellipsis size={15} />}
      className="flex min-h-6 min-w-6 items-center justify-center text-soft hover:text-ink"
      align="end"
      width="min-w-44"
      entries={() => [
        {
          id: 'choose',
          label: `Choose all ${nets.length} nets`,
          onSelect: () =>
            mark(
              nets.map((net) => net.id),
              'only',
            ),
        },
        {
          id: 'copy',
          label: 'Copy the circuit',
          onSelect: () => dispatch(copyCircuit(plan, circuit, newId, (role) => openRole(device, role))),
        },
        {
          id: 'remove',
          label: 'Remove it with its nets',
          onSelect: () => dispatch(removeNets(plan, nets)),
        },
      ]}
    />
  );
}
