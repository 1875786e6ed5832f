'use client';

import { TIE_WORDS } from '@/core/placing/ties';
import { addTie, removeTie } from '@/core/plan/make-edits';
import { type Net, TIE_KINDS, type TieKind } from '@/core/plan/types';
import { newId } from '../client/ids';
import { useWorkspace } from '../workspace/context';
import { Section } from './section';

/** Demands that a net shares with others. */
export function TiesOf({ net }: { net: Net }) {
  const { derived, dispatch, select } = useWorkspace();
  const { plan } = derived;
  const ties = (plan.ties ?? []).filter((tie) => tie.nets.includes(net.id));
  if (ties.length === 0) return null;
  return (
    <Section title="Together with others">
      <ul>
        {ties.map((tie) => (
          <li key={tie.id} className="flex items-baseline gap-2">
            <span>
              {TIE_WORDS[tie.kind]}:{' '}
              {tie.nets.map((id) => (
                <button
                  key={id}
                  type="button"
                  className="mr-1.5 font-medium hover:underline"
                  onClick={() => select({ kind: 'net', id })}
                >
                  {derived.byNet.get(id)?.net.name}
                </button>
              ))}
            </span>
            <button type="button" className="link ml-auto" onClick={() => dispatch(removeTie(plan, tie))}>
              give up
            </button>
          </li>
        ))}
      </ul>
    </Section>
  );
}

/** Buttons that demand something of several nets together. */
export function TieButtons({ nets }: { nets: readonly Net[] }) {
  const { derived, dispatch } = useWorkspace();
  const { plan } = derived;
  const ids = nets.map((net) => net.id);
  const same = (kind: TieKind) =>
    plan.ties?.find(
      (tie) =>
        tie.kind === kind && tie.nets.length === ids.length && tie.nets.every((id) => ids.includes(id)),
    );
  return (
    <div className="flex flex-wrap gap-1">
      {TIE_KINDS.filter((kind) => kind !== 'pair' || nets.length === 2).map((kind) => {
        const there = same(kind);
        return (
          <button
            key={kind}
            type="button"
            className={`button px-1 ${there ? 'border-ink bg-pickbg' : ''}`}
            aria-pressed={there !== undefined}
            onClick={() =>
              dispatch(there ? removeTie(plan, there) : addTie(plan, { id: newId(), kind, nets: ids }))
            }
          >
            {TIE_WORDS[kind]}
          </button>
        );
      })}
    </div>
  );
}
