'use client';

import { Pencil } from 'lucide-react';
import { type ReactNode, useState } from 'react';
import type { Problem } from '@/core/base/problems';
import { newId } from '@/core/base/text/new-id';
import type { Plan } from '@/core/plan/model/types';
import { call } from '../client/api';
import { May } from '../people/me';

interface Props {
  planId: string;
  name: string;
  children: ReactNode;
  onDone: () => void;
  onProblem: (message: { text: string; problems: Problem[] }) => void;
}

/** Shows a plan's name and lets it be changed in place. Renaming is an edit like any other, so it can be undone. */
export function RenameField({ planId, name, children, onDone, onProblem }: Props) {
  const [value, setValue] = useState<string | null>(null);

  async function rename() {
    const wanted = value?.trim() ?? '';
    setValue(null);
    if (wanted === '' || wanted === name) return;
    const current = await call<{ plan: Plan; seq: number }>('GET', `/api/plans/${planId}`);
    const answer = current.ok
      ? await call('POST', `/api/plans/${planId}/edits`, {
          editId: newId(),
          client: newId(),
          madeAgainst: current.value.seq,
          edit: { kind: 'plan.set', field: 'name', from: current.value.plan.name, to: wanted },
        })
      : current;
    if (!answer.ok) onProblem({ text: `${name} could not be renamed.`, problems: answer.problems });
    onDone();
  }

  if (value === null) {
    return (
      <span className="group inline-flex items-baseline">
        {children}
        <May right="edit">
          <button
            type="button"
            className="ml-2 self-center p-0.5 text-soft opacity-0 hover:text-ink focus-visible:opacity-100 group-hover:opacity-100"
            aria-label={`Rename ${name}`}
            title="Rename"
            onClick={() => setValue(name)}
          >
            <Pencil size={13} />
          </button>
        </May>
      </span>
    );
  }
  return (
    <input
      // biome-ignore lint/a11y/noAutofocus: the user has just asked for this field
      autoFocus
      aria-label={`New name of ${name}`}
      className="w-64"
      maxLength={120}
      value={value}
      onChange={(event) => setValue(event.target.value)}
      onBlur={() => void rename()}
      onKeyDown={(event) => {
        if (event.key === 'Enter') event.currentTarget.blur();
        if (event.key === 'Escape') setValue(null);
      }}
    />
  );
}
