'use client';

import type { LineKind, PadClass, Peripheral, Supply } from '@/core/description/types';
import type { DraftReading, Rest } from '@/core/import/compose/draft';
import { type Figure, FiguresTable } from './figures-table';

interface Props {
  file: DraftReading['file'];
  rest: Rest;
  onRest: (change: Partial<Rest>) => void;
}

const DIRECTIONS: LineKind['direction'][] = ['in', 'out', 'both', 'analog'];

/** What is said to be open is not there. */
const withoutEmpty = (one: PadClass): PadClass =>
  Object.fromEntries(Object.entries(one).filter(([, value]) => value !== undefined)) as unknown as PadClass;

const SUPPLY: readonly Figure<Supply>[] = [
  { key: 'nominalVolts', title: 'nominal', unit: 'V' },
  { key: 'lowestVolts', title: 'lowest', unit: 'V' },
  { key: 'highestVolts', title: 'highest', unit: 'V' },
  { key: 'sourceMilliamps', title: 'gives', unit: 'mA' },
  { key: 'sinkMilliamps', title: 'takes', unit: 'mA' },
];
const CLASS: readonly Figure<PadClass>[] = [
  { key: 'toleratesVolts', title: 'Highest input voltage', unit: 'V' },
  { key: 'sourceMilliamps', title: 'gives', unit: 'mA' },
  { key: 'sinkMilliamps', title: 'takes', unit: 'mA' },
  { key: 'pullOhms', title: 'pull', unit: 'kΩ', per: 1000 },
  { key: 'highestHertz', title: 'highest rate', unit: 'MHz', per: 1_000_000 },
  { key: 'readsLowBelow', title: 'reads low below', unit: '× supply' },
  { key: 'readsHighAbove', title: 'reads high above', unit: '× supply' },
];
const INSTANCE: readonly Figure<Peripheral>[] = [
  { key: 'clockHertz', title: 'clock', unit: 'MHz', per: 1_000_000 },
  { key: 'highestHertz', title: 'highest rate', unit: 'MHz', per: 1_000_000 },
];

/** Supplies and classes with their figures, and the texts of notes. */
export function ElectricalSection({ file, rest, onRest }: Props) {
  const classes = Object.entries(file.padClasses).map(([id, one]) => ({ id, ...one }));
  const setClass = (id: string, change: Partial<PadClass>): void => {
    const next = { ...file.padClasses[id], title: file.padClasses[id]?.title ?? id, ...change };
    onRest({ padClasses: { ...rest.padClasses, [id]: withoutEmpty(next) } });
  };
  return (
    <section>
      <h2 className="mb-1 font-semibold">Supplies</h2>
      <FiguresTable
        what="supply"
        items={file.supplies}
        idOf={(one) => one.id}
        figures={SUPPLY}
        onChange={(id, { nominalVolts, ...change }) =>
          onRest({
            supplies: {
              ...rest.supplies,
              [id]: {
                ...rest.supplies[id],
                ...change,
                ...(nominalVolts === undefined ? {} : { nominalVolts }),
              },
            },
          })
        }
      />
      <h2 className="mb-1 mt-4 font-semibold">Electrical classes</h2>
      {classes.length === 0 ? (
        <p className="text-soft">No column of the pinout says a class.</p>
      ) : (
        <FiguresTable<PadClass & { id: string }>
          what="class"
          items={classes}
          idOf={(one) => one.id}
          figures={CLASS}
          onChange={(id, change) => setClass(id, change)}
        />
      )}
      <ul>
        {classes.map(({ id, atReset }) => (
          <li key={id} className="mt-1">
            <label>
              <span className="m">{id}</span>{' '}
              <span className="text-soft">from power-up to initialisation</span>{' '}
              <select
                aria-label={`At reset of class ${id}`}
                className="!h-6 !py-0"
                value={atReset ?? ''}
                onChange={(event) =>
                  setClass(id, { atReset: (event.target.value || undefined) as PadClass['atReset'] })
                }
              >
                <option value="">not stated</option>
                <option value="floating">floats</option>
                <option value="pull-up">pulled up</option>
                <option value="pull-down">pulled down</option>
              </select>
            </label>
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
      {file.peripherals.length > 0 && (
        <details className="mt-2">
          <summary className="text-soft">Clocks and rates of instances</summary>
          <FiguresTable
            what="instance"
            items={file.peripherals as (Peripheral & { title?: string })[]}
            idOf={(one) => one.id}
            figures={INSTANCE}
            onChange={(id, change) =>
              onRest({ peripherals: { ...rest.peripherals, [id]: { ...rest.peripherals[id], ...change } } })
            }
          />
        </details>
      )}
      {file.peripherals.length === 0 && <p className="text-soft">They come with the function table.</p>}
    </section>
  );
}
