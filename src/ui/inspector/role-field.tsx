'use client';

import { splitSignal } from '@/core/description/types';
import { PLAIN_ROLES, ROLE_TITLES, type Role } from '@/core/plan/model/types';
import { useDerived } from '../workspace/context';

/** What a net is: plain, analog, or a line of a peripheral, whose instance may stay open. */
export function RoleField({ role, onChange }: { role: Role; onChange: (role: Role) => void }) {
  const { derived } = useDerived();
  const { description } = derived.device;
  const kinds = Object.entries(description.peripheralKinds).filter(([, kind]) =>
    Object.values(kind.lines).some((line) => line.direction !== 'analog'),
  );
  const parts = partsOf(role);
  const kindId =
    parts && (parts.kind ?? description.peripherals.find((one) => one.id === parts.instance)?.kind);
  const lines = Object.keys(description.peripheralKinds[kindId ?? '']?.lines ?? {});
  const instances = description.peripherals.filter((one) => one.kind === kindId);

  function choose(value: string) {
    const plain = PLAIN_ROLES.find((one) => one === value);
    if (plain) onChange({ kind: plain });
    else
      onChange({
        kind: 'open-signal',
        peripheral: value,
        line: Object.keys(description.peripheralKinds[value]?.lines ?? {})[0] ?? '',
      });
  }

  function build(instance: string, line: string) {
    if (kindId === undefined) return;
    onChange(
      instance === '' || line.includes('*')
        ? { kind: 'open-signal', peripheral: kindId, line }
        : { kind: 'signal', signal: `${instance}.${line}` },
    );
  }

  return (
    <span className="flex flex-wrap gap-1">
      <select
        aria-label="What it is"
        className="px-1 py-0"
        value={kindId ?? role.kind}
        onChange={(event) => choose(event.target.value)}
      >
        {PLAIN_ROLES.map((one) => (
          <option key={one} value={one}>
            {ROLE_TITLES[one]}
          </option>
        ))}
        <optgroup label="peripheral line">
          {kinds.map(([id, kind]) => (
            <option key={id} value={id} title={kind.title}>
              {id}
            </option>
          ))}
        </optgroup>
      </select>
      {parts && (
        <>
          <select
            aria-label="Instance"
            className="px-1 py-0"
            value={parts.instance ?? ''}
            onChange={(event) => build(event.target.value, parts.line)}
          >
            <option value="">any</option>
            {instances.map((one) => (
              <option key={one.id} value={one.id}>
                {one.id}
              </option>
            ))}
          </select>
          <select
            aria-label="Line"
            className="px-1 py-0"
            value={parts.line}
            onChange={(event) => build(parts.instance ?? '', event.target.value)}
          >
            {!lines.includes(parts.line) && !openLines(lines).includes(parts.line) && (
              <option value={parts.line}>{parts.line}</option>
            )}
            {[...lines, ...openLines(lines)].map((line) => (
              <option key={line} value={line}>
                {line.includes('*') ? `any ${line.replace('*', '')}` : line}
              </option>
            ))}
          </select>
        </>
      )}
    </span>
  );
}

function partsOf(role: Role): { kind?: string; instance?: string; line: string } | undefined {
  if (role.kind === 'open-signal') return { kind: role.peripheral, line: role.line };
  if (role.kind !== 'signal') return undefined;
  const [instance, line] = splitSignal(role.signal);
  return { instance, line };
}

/** Lines that differ in a number only, with the number left open: Q1 and Q2 make `Q*`. */
function openLines(lines: readonly string[]): string[] {
  const counts = new Map<string, number>();
  for (const line of lines) {
    const open = line.replace(/\d+/, '*');
    if (open !== line) counts.set(open, (counts.get(open) ?? 0) + 1);
  }
  return [...counts].filter(([, count]) => count > 1).map(([open]) => open);
}
