'use client';

import { useActions, useSession } from './context';

/** Changes of one's own that met changes of others, mostly while the server was away: which of both is meant. */
export function MetEdits() {
  const { met } = useSession();
  const { session } = useActions();
  if (met.length === 0) return null;
  const all = (act: (editId: string) => void): void => {
    for (const { editId } of met) act(editId);
  };
  return (
    <section
      role="alert"
      aria-label="Changes that met others"
      className="max-h-48 overflow-auto border-b border-ink bg-pickbg px-4 py-1.5"
    >
      <p className="flex flex-wrap items-baseline gap-x-4">
        <b className="mr-auto font-semibold">
          {met.length === 1
            ? 'A change was not applied: somebody else changed the same.'
            : `${met.length} changes were not applied: somebody else changed the same.`}
        </b>
        {met.length > 1 && (
          <>
            <button type="button" className="link leading-6" onClick={() => all(session.takeMine)}>
              take all of mine
            </button>
            <button type="button" className="link leading-6" onClick={() => all(session.leaveTheirs)}>
              leave all of theirs
            </button>
          </>
        )}
      </p>
      <ul>
        {met.map(({ editId, words, why }) => (
          <li
            key={editId}
            className="flex flex-wrap items-baseline gap-x-3 border-t border-rule"
            data-met={words}
          >
            <span>{words}</span>
            <span className="mr-auto text-soft">{why}</span>
            <button
              type="button"
              className="button my-0.5 min-h-6"
              aria-label={`Take mine: ${words}`}
              onClick={() => session.takeMine(editId)}
            >
              Take mine
            </button>
            <button
              type="button"
              className="button my-0.5 min-h-6"
              aria-label={`Leave theirs: ${words}`}
              onClick={() => session.leaveTheirs(editId)}
            >
              Leave theirs
            </button>
          </li>
        ))}
      </ul>
    </section>
  );
}
