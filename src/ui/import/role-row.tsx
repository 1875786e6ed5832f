'use client';

import type { FieldRoleChoice, Proposal } from '@/core/import/attach/choices';
import { placeTitle } from '@/core/import/attach/places';
import { valuesAt } from '@/core/import/attach/propose';
import { roleKind } from '@/core/import/attach/roles';

interface Props {
  choice: FieldRoleChoice;
  proposal: Proposal;
  onChange: (next: Partial<FieldRoleChoice>) => void;
}

/** A role of the port hardware: its register, and which value means what. */
export function RoleRow({ choice, proposal, onChange }: Props) {
  const kind = roleKind(choice.role);
  const usable = proposal.places.filter((place) => {
    const access = place.families[0]?.access;
    if (!kind.bits.includes(place.bits) || (place.sliced && kind.id !== 'code' && kind.id !== 'pull'))
      return false;
    if (place.setBy) return kind.access === 'write';
    return kind.access === 'read' ? access !== 'write-only' : access !== 'read-only';
  });
  const place = proposal.places.find((one) => one.id === choice.place);
  return (
    <tr className="border-b border-rule align-baseline">
      <th
        scope="row"
        className={`whitespace-nowrap py-1 pr-3 text-left font-normal ${place ? '' : 'text-soft'}`}
      >
        {kind.title}
      </th>
      <td className="pr-3">
        <select
          aria-label={`Register of ${kind.title}`}
          className={`m w-full max-w-[26rem] !h-6 !py-0 ${place ? '' : 'text-soft'}`}
          value={choice.place ?? ''}
          onChange={(event) => {
            const next = proposal.places.find((one) => one.id === event.target.value);
            onChange({
              place: next?.id ?? null,
              reason: '',
              ...(next ? valuesAt(kind, next) : { values: choice.values }),
            });
          }}
        >
          <option value="">none</option>
          {usable.map((one) => (
            <option key={one.id} value={one.id}>
              {placeTitle(one)}
            </option>
          ))}
        </select>
        {choice.reason !== '' && (
          <span className="block text-[12px] text-soft">proposed: {choice.reason}</span>
        )}
      </td>
      <td className="whitespace-nowrap">
        {place && Object.keys(kind.values).length > 0 && <Values choice={choice} onChange={onChange} />}
      </td>
    </tr>
  );
}

/** Which value means what; an emptied number takes the meaning away. */
function Values({ choice, onChange }: Pick<Props, 'choice' | 'onChange'>) {
  const kind = roleKind(choice.role);
  const names = kind.free ? Object.keys(choice.values) : Object.keys(kind.values);
  return (
    <span className="flex flex-wrap gap-x-2 gap-y-0.5">
      {names.map((name, index) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a name that is being typed must keep its field
        <span key={index} className="inline-flex items-baseline gap-1">
          {kind.free ? (
            <input
              aria-label={`Name of value ${choice.values[name]} of ${kind.title}`}
              className="m w-16 !px-1 !h-6 !py-0"
              value={name}
              onChange={(event) => {
                const next = event.target.value.replace(/[^A-Za-z0-9.-]/g, '');
                if (next === '' || (next !== name && next in choice.values)) return;
                onChange({
                  values: Object.fromEntries(
                    Object.entries(choice.values).map(([key, value]) => [key === name ? next : key, value]),
                  ),
                });
              }}
            />
          ) : (
            <span className="text-soft">{name}</span>
          )}
          <input
            aria-label={`Value of ${name} for ${kind.title}`}
            className="m w-9 !px-1 !h-6 !py-0 text-right"
            inputMode="numeric"
            value={choice.values[name] ?? ''}
            onChange={(event) => {
              const { [name]: _old, ...others } = choice.values;
              const number = Number.parseInt(event.target.value, 10);
              const order = kind.free ? Object.keys(choice.values) : Object.keys(kind.values);
              const values = Number.isNaN(number) ? others : { ...others, [name]: number };
              onChange({
                values: Object.fromEntries(
                  order.flatMap((key) => (key in values ? [[key, values[key] ?? 0]] : [])),
                ),
              });
            }}
          />
        </span>
      ))}
    </span>
  );
}
