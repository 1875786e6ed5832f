'use client';

import { colourOf, initialsOf, type Present } from '@/core/review/presence';
import { useOthers, useOthersAt } from '../client/presence';
import { useActions, useDerived } from '../workspace/context';
import { VIEWS } from '../workspace/selection';

const sayWho = ({ author }: Present): string => author || 'somebody';

/** One other person: their initials, in their colour. */
function Initials({ one, title }: { one: Present; title: string }) {
  return (
    <span
      title={title}
      data-person={one.author}
      className="inline-flex h-4 min-w-4 items-center justify-center rounded-sm px-0.5 text-[10px] font-semibold leading-none text-ink"
      style={{
        boxShadow: `inset 0 -3px 0 var(--c${colourOf(one)}), inset 0 0 0 1px var(--c${colourOf(one)})`,
      }}
    >
      {initialsOf(one.author)}
    </span>
  );
}

/** Who else has the plan open; a click goes to where they are. */
export function Others() {
  const { planId, select, setView } = useActions();
  const others = useOthers(planId);
  const { derived } = useDerived();
  if (others.length === 0) return null;
  const shown = others.slice(0, 6);
  return (
    <ul aria-label="Also here" className="flex shrink-0 items-center gap-1">
      {shown.map((one) => {
        const [kind = '', ...rest] = one.selection.split(':');
        const id = rest.join(':');
        const at =
          kind === 'net'
            ? (derived.byNet.get(id)?.net.name ?? '')
            : kind === 'pad'
              ? `pad ${id}`
              : kind === ''
                ? ''
                : kind;
        const title = `${sayWho(one)}${at === '' ? '' : ` is at ${at}`}${one.view === '' ? '' : `, ${one.view} view`}`;
        return (
          <li key={one.client}>
            <button
              type="button"
              aria-label={`Go to ${title}`}
              onClick={() => {
                if (kind === 'net' || kind === 'pad') select({ kind, id });
                const view = VIEWS.find(({ id: known }) => known === one.view);
                if (view) setView(view.id);
              }}
            >
              <Initials one={one} title={title} />
            </button>
          </li>
        );
      })}
      {others.length > shown.length && <li className="text-soft">+{others.length - shown.length}</li>}
    </ul>
  );
}

/** Others that have selected a net, or its pad. */
export function OthersAt({ net, pad }: { net?: string | undefined; pad?: string | undefined }) {
  const { planId } = useActions();
  const here = useOthersAt(planId, [
    ...(net === undefined ? [] : [`net:${net}`]),
    ...(pad === undefined ? [] : [`pad:${pad}`]),
  ]);
  if (here.length === 0) return null;
  return (
    <span className="mr-0.5 inline-flex shrink-0 gap-0.5">
      {here.slice(0, 3).map((one) => (
        <Initials key={one.client} one={one} title={`${sayWho(one)} is here`} />
      ))}
      <span className="sr-only">{here.map(sayWho).join(', ')} is here, </span>
    </span>
  );
}
