'use client';

import { Ellipsis } from 'lucide-react';
import { DropdownMenu } from 'radix-ui';
import { openRole } from '@/core/placing/groups';
import { copyCircuit, removeNets } from '@/core/plan/make-edits';
import type { Circuit } from '@/core/plan/types';
import { newId } from '../client/ids';
import { useWorkspace } from '../workspace/context';

/** What can be done with a whole circuit. */
export function CircuitMenu({ circuit }: { circuit: Circuit }) {
  const { derived, dispatch, mark } = useWorkspace();
  const { plan, device } = derived;
  const nets = plan.nets.filter((net) => net.circuit === circuit.id);
  return (
    <DropdownMenu.Root modal={false}>
      <DropdownMenu.Trigger
        className="flex min-h-6 min-w-6 items-center justify-center text-soft hover:text-ink"
        aria-label={`Circuit ${circuit.name}`}
      >
        <Ellipsis size={15} />
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content align="end" className="z-40 min-w-44 border border-ink bg-sheet py-1">
          <DropdownMenu.Item
            className={MENU_ITEM}
            onSelect={() =>
              mark(
                nets.map((net) => net.id),
                'only',
              )
            }
          >
            Choose all {nets.length} nets
          </DropdownMenu.Item>
          <DropdownMenu.Item
            className={MENU_ITEM}
            onSelect={() => dispatch(copyCircuit(plan, circuit, newId, (role) => openRole(device, role)))}
          >
            Copy the circuit
          </DropdownMenu.Item>
          <DropdownMenu.Item className={MENU_ITEM} onSelect={() => dispatch(removeNets(plan, nets))}>
            Remove it with its nets
          </DropdownMenu.Item>
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
const MENU_ITEM = 'cursor-pointer px-3 py-1 outline-none data-[highlighted]:bg-pickbg';
