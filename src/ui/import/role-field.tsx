'use client';

import { type ColumnRoleChoice, rolesFor, splitRole, type TableKind } from '@/core/import/tables/mapping';

interface Props {
  kind: TableKind;
  role: string;
  heading: string;
  onChange: (role: string) => void;
}

/** What a column is: a choice, and a name where the choice needs one. */
export function RoleField({ kind, role, heading, onChange }: Props) {
  const [base, name] = splitRole(role);
  const choices = rolesFor(kind);
  const choice = choices.find((one) => one.role === base);
  return (
    <>
      <span className="flex">
        <select
          aria-label={`What ${heading} is`}
          className={`min-w-0 flex-1 !px-0.5 !h-6 !py-0 text-[12px] ${base === 'ignore' ? 'text-soft' : 'font-medium'}`}
          value={base}
          onChange={(event) => onChange(startRole(choices, event.target.value, heading))}
        >
          {choices.map((one) => (
            <option key={one.role} value={one.role}>
              {one.title}
            </option>
          ))}
        </select>
        {choice?.named && (
          <input
            aria-label={`${choice.named} of ${heading}`}
            title={choice.named}
            className="m w-11 !px-1 !h-6 !py-0"
            value={name}
            onChange={(event) => onChange(`${base}:${event.target.value}`)}
          />
        )}
      </span>
      <span
        className="block overflow-hidden text-ellipsis whitespace-nowrap text-[11.5px] text-soft"
        title={heading}
      >
        {heading}
      </span>
    </>
  );
}

/** A named role starts with a name from the heading: `AF7` → 7, "Q100" → q100. */
function startRole(choices: readonly ColumnRoleChoice[], base: string, heading: string): string {
  const choice = choices.find((one) => one.role === base);
  if (!choice?.named) return base;
  if (base === 'mux') return `mux:${/\d+/.exec(heading)?.[0] ?? '0'}`;
  const word = heading.toLowerCase().replace(/[^a-z0-9]+/g, '');
  return `${base}:${base === 'number' ? heading.replace(/\W+/g, '_') : word}`;
}
