'use client';

import { type FormEvent, useState } from 'react';
import { newId } from '@/core/base/text/new-id';
import { whyNot } from '@/core/derive/resolve/resolve';
import type { Pad } from '@/core/description/types';
import { offerOf } from '@/core/device/offers';
import { addNets } from '@/core/plan/edits/make-edits';
import type { Net, Role } from '@/core/plan/model/types';
import { useActions, useDerived } from '../workspace/context';
import { Section } from './section';

/** Starting from the pad: a new net with one of the pad's functions, placed at once. */
export function NewNetHere({ pad }: { pad: Pad }) {
  const { derived } = useDerived();
  const { dispatch, select } = useActions();
  const { device, pkg, plan } = derived;
  const [name, setName] = useState('');
  const [choice, setChoice] = useState('input');
  const last = plan.circuits.at(-1);
  const [circuit, setCircuit] = useState(last?.id ?? '');
  const functions = offerOf(device, pkg)
    .of(pad.id)
    .filter((fn) => fn.mux !== null || fn.itself);
  const plain = (['input', 'output', 'analog'] as const).filter(
    (kind) => whyNot(device, pkg, { kind }, pad) === undefined,
  );

  function add(event: FormEvent) {
    event.preventDefault();
    const role: Role =
      choice === 'input' || choice === 'output' || choice === 'analog'
        ? { kind: choice }
        : { kind: 'signal', signal: choice };
    const home = plan.circuits.find((one) => one.id === circuit) ?? { id: newId(), name: 'Board' };
    const text = name.trim() || (role.kind === 'signal' ? role.signal.replace(/\W+/g, '_') : `NET_${pad.id}`);
    const net: Net = {
      id: newId(),
      name: text,
      circuit: home.id,
      role,
      placement: { pad: pad.id, locked: false },
      settings: {},
    };
    const fresh = plan.circuits.some((one) => one.id === home.id) ? [] : [home];
    if (dispatch(addNets(plan, fresh, [net]))) select({ kind: 'net', id: net.id });
  }

  return (
    <Section title="New net here">
      <form onSubmit={add} className="flex flex-wrap gap-1.5">
        <input
          aria-label="Name of the new net"
          placeholder="name"
          maxLength={120}
          className="w-28"
          value={name}
          onChange={(event) => setName(event.target.value)}
        />
        <select
          aria-label="What the new net is"
          className="py-0"
          value={choice}
          onChange={(event) => setChoice(event.target.value)}
        >
          {plain.map((kind) => (
            <option key={kind}>{kind}</option>
          ))}
          {functions.map((fn) => (
            <option key={`${fn.signal} ${fn.mux}`}>{fn.signal}</option>
          ))}
        </select>
        {plan.circuits.length > 0 && (
          <select
            aria-label="Circuit of the new net"
            className="py-0"
            value={circuit}
            onChange={(event) => setCircuit(event.target.value)}
          >
            {plan.circuits.map((one) => (
              <option key={one.id} value={one.id}>
                {one.name}
              </option>
            ))}
          </select>
        )}
        <button type="submit" className="button">
          Add
        </button>
      </form>
    </Section>
  );
}
