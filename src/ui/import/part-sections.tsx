'use client';

import type { LineKind } from '@/core/description/types';
import type { DraftReading, Rest } from '@/core/import/compose/draft';
import { NumberField } from './part-fields';

interface Props {
  file: DraftReading['file'];
  rest: Rest;
  onRest: (change: Partial<Rest>) => void;
}

const DIRECTIONS: LineKind['direction'][] = ['in', 'out', 'both', 'analog'];

/** Supplies and classes with their voltages, and the texts of notes. */
export function ElectricalSection({ file, rest, onRest }: Props) {
  return (
    <section>
      <h2 className="mb-1 font-semibold">Supplies</h2>
      <ul className="grid gap-1">
        {file.supplies.map((one) => (
          <li key={one.id} className="grid grid-cols-[60px_1fr_80px_12px] items-baseline gap-2">
            <span className="m">{one.id}</span>
            <input
              aria-label={`Title of supply ${one.id}`}
              value={one.title}
              maxLength={100}
              onChange={(event) =>
                onRest({
                  supplies: {
                    ...rest.supplies,
                    [one.id]: { ...rest.supplies[one.id], title: event.target.value },
                  },
                })
              }
            />
            <NumberField
              label={`Volts of supply ${one.id}`}
              value={one.nominalVolts}
              onChange={(nominalVolts) =>
                onRest({
                  supplies: {
                    ...rest.supplies,
                    [one.id]: { ...rest.supplies[one.id], nominalVolts: nominalVolts ?? 0 },
                  },
                })
              }
            />
            <span className="text-soft">V</span>
          </li>
        ))}
      </ul>
      <h2 className="mb-1 mt-4 font-semibold">Electrical classes</h2>
      {Object.keys(file.padClasses).length === 0 && (
        <p className="text-soft">No column of the pinout says a class.</p>
      )}
      <ul className="grid gap-1">
        {Object.entries(file.padClasses).map(([id, one]) => (
          <li key={id} className="grid grid-cols-[60px_1fr_80px_12px] items-baseline gap-2">
            <span className="m">{id}</span>
            <input
              aria-label={`Title of class ${id}`}
              value={one.title}
              maxLength={100}
              onChange={(event) =>
                onRest({
                  padClasses: { ...rest.padClasses, [id]: { ...one, title: event.target.value } },
                })
              }
            />
            <NumberField
              label={`Highest input voltage of class ${id}`}
              value={one.toleratesVolts}
              onChange={(toleratesVolts) =>
                onRest({ padClasses: { ...rest.padClasses, [id]: { ...one, toleratesVolts } } })
              }
            />
            <span className="text-soft">V</span>
          </li>
        ))}
      </ul>
      <h2 className="mb-1 mt-4 font-semibold">Notes</h2>
      {Object.keys(file.notes).length === 0 && (
        <p className="text-soft">The tables have no footnote marks.</p>
      )}
      <ul className="grid gap-1">
        {Object.entries(file.notes).map(([id, text]) => (
          <li key={id} className="grid grid-cols-[60px_1fr] gap-2">
            <span className="m">{id}</span>
            <textarea
              aria-label={`Text of note ${id}`}
              rows={1}
              className="min-h-7"
              value={text}
              maxLength={4000}
              onChange={(event) => onRest({ notes: { ...rest.notes, [id]: event.target.value } })}
            />
          </li>
        ))}
      </ul>
    </section>
  );
}

/** Which way the lines of each kind of peripheral go. */
export function PeripheralSection({ file, rest, onRest }: Props) {
  return (
    <section>
      <h2 className="mb-1 font-semibold">Peripherals and the directions of their lines</h2>
      <ul className="grid gap-1.5">
        {Object.entries(file.peripheralKinds).map(([id, kind]) => {
          const instances = file.peripherals.filter((one) => one.kind === id);
          return (
            <li key={id}>
              <span className="m font-medium">{id}</span>{' '}
              <span className="text-soft">
                {instances.length === 1 ? '1 instance' : `${instances.length} instances`}
              </span>
              <span className="flex flex-wrap gap-x-3 gap-y-0.5">
                {Object.entries(kind.lines).map(([line, one]) => (
                  <label key={line} className="m flex items-baseline gap-1">
                    {line}
                    <select
                      aria-label={`Direction of ${id} ${line}`}
                      className="!px-0.5 !h-6 !py-0"
                      value={one.direction}
                      onChange={(event) => {
                        const direction = event.target.value as LineKind['direction'];
                        const lines = { ...kind.lines, [line]: { ...one, direction } };
                        onRest({
                          peripheralKinds: { ...rest.peripheralKinds, [id]: { ...kind, lines } },
                        });
                      }}
                    >
                      {DIRECTIONS.map((direction) => (
                        <option key={direction}>{direction}</option>
                      ))}
                    </select>
                  </label>
                ))}
              </span>
            </li>
          );
        })}
      </ul>
      {file.peripherals.length === 0 && <p className="text-soft">They come with the function table.</p>}
    </section>
  );
}
