'use client';

import { newId } from '@/core/base/text/new-id';
import { CONSTRAINT_WORDS } from '@/core/derive/candidates/constraints';
import { addConstraint, removeConstraint } from '@/core/plan/edits/make-edits';
import { CONSTRAINT_KINDS, type ConstraintKind, type Net } from '@/core/plan/model/types';
import { useActions, useDerived } from '../workspace/context';
import { Section } from './section';

/** Demands that a net shares with others. */
export function ConstraintsOf({ net }: { net: Net }) {
  const { derived } = useDerived();
  const { dispatch, select } = useActions();
  const { plan } = derived;
  const constraints = (plan.constraints ?? []).filter((constraint) => constraint.nets.includes(net.id));
  if (constraints.length === 0) return null;
  return (
    <Section title="Together with others">
      <ul>
        {constraints.map((constraint) => (
          <li key={constraint.id} className="flex items-baseline gap-2">
            <span>
              {CONSTRAINT_WORDS[constraint.kind]}:{' '}
              {constraint.nets.map((id) => (
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
            <button
              type="button"
              className="link ml-auto"
              onClick={() => dispatch(removeConstraint(plan, constraint))}
            >
              give up
            </button>
          </li>
        ))}
      </ul>
    </Section>
  );
}

/** Buttons that demand something of several nets together. */
export function ConstraintButtons({ nets }: { nets: readonly Net[] }) {
  const { derived } = useDerived();
  const { dispatch } = useActions();
  const { plan } = derived;
  const ids = nets.map((net) => net.id);
  const same = (kind: ConstraintKind) =>
    plan.constraints?.find(
      (constraint) =>
        constraint.kind === kind &&
        constraint.nets.length === ids.length &&
        constraint.nets.every((id) => ids.includes(id)),
    );
  return (
    <div className="flex flex-wrap gap-1">
      {CONSTRAINT_KINDS.filter((kind) => kind !== 'pair' || nets.length === 2).map((kind) => {
        const there = same(kind);
        return (
          <button
            key={kind}
            type="button"
            className={`button px-1 ${there ? 'border-ink bg-pickbg' : ''}`}
            aria-pressed={there !== undefined}
            onClick={() =>
              dispatch(
                there ? removeConstraint(plan, there) : addConstraint(plan, { id: newId(), kind, nets: ids }),
              )
            }
          >
            {CONSTRAINT_WORDS[kind]}
          </button>
        );
      })}
    </div>
  );
}
