'use client';

import type { Unconfirmed } from '@/core/description/types';

interface Props {
  open: readonly Unconfirmed[];
  /** Statements of these ids have been compared with the document. */
  onConfirm: (ids: ReadonlySet<string>) => void;
  busy?: boolean;
}

/** The role or gate that a statement is about. */
const groupOf = ({ id }: Unconfirmed): string => id.split(' ')[0] ?? id;

/** What was proposed and is not confirmed: by value, by role, or all, each with what it rests on. */
export function ConfirmList({ open, onConfirm, busy = false }: Props) {
  if (open.length === 0) return null;
  const groups = [...new Set(open.map(groupOf))].map((group) => ({
    group,
    all: open.filter((one) => groupOf(one) === group),
  }));
  return (
    <section aria-label="Not confirmed" className="mb-4 border border-warn px-3 py-2">
      <div className="flex flex-wrap items-baseline gap-x-3 gap-y-1">
        <h2 className="font-semibold text-warn">△ {open.length} not confirmed</h2>
        <span className="text-soft">
          Proposed, and not compared with the document yet. Plans on the part say so, and so does every file
          made of them.
        </span>
        <button
          type="button"
          className="button ml-auto"
          disabled={busy}
          onClick={() => onConfirm(new Set(open.map((one) => one.id)))}
        >
          Confirm all {open.length}
        </button>
      </div>
      <ul className="mt-1 max-h-64 overflow-y-auto">
        {groups.map(({ group, all }) => (
          <li key={group} className="border-t border-rule py-1">
            {all.length > 1 && (
              <button
                type="button"
                className="link float-right min-h-6"
                disabled={busy}
                onClick={() => onConfirm(new Set(all.map((one) => one.id)))}
              >
                confirm these {all.length}
              </button>
            )}
            <ul>
              {all.map((one) => (
                <li key={one.id} className="flex flex-wrap items-baseline gap-x-2">
                  <button
                    type="button"
                    className="link min-h-6"
                    disabled={busy}
                    aria-label={`Confirm: ${one.says}`}
                    onClick={() => onConfirm(new Set([one.id]))}
                  >
                    confirm
                  </button>
                  <span className="m">{one.says}</span>
                  <span className="text-[12px] text-soft">rests on: {one.rests}</span>
                </li>
              ))}
            </ul>
          </li>
        ))}
      </ul>
    </section>
  );
}
