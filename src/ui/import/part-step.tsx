'use client';

import type { LineKind, PackageShape, Removal } from '@/core/device/types';
import type { DraftReading, PartDraft, Rest } from '@/core/tables/draft';
import { ballRows, inferShape, shapeName } from '@/core/tables/infer';
import { ScrollRegion } from '../parts/scroll-region';

interface Props {
  draft: PartDraft;
  reading: DraftReading;
  /** The part exists already: its id stays. */
  fixedId: boolean;
  onDraft: (draft: PartDraft) => void;
}

const DIRECTIONS: LineKind['direction'][] = ['in', 'out', 'both', 'analog'];

/** What the tables do not say: names, voltages, shapes, directions, notes. All of it is filled in as far as it can be told. */
export function PartStep({ draft, reading, fixedId, onDraft }: Props) {
  const { device, rest } = draft;
  const { file } = reading;
  const setDevice = (change: Partial<PartDraft['device']>): void =>
    onDraft({ ...draft, device: { ...device, ...change } });
  const setRest = (change: Partial<Rest>): void => onDraft({ ...draft, rest: { ...rest, ...change } });
  const source = device.source ?? { document: '' };
  return (
    <ScrollRegion label="The part" className="h-full px-6 py-3">
      <div className="grid max-w-6xl gap-x-12 gap-y-5 lg:grid-cols-2">
        <section>
          <h2 className="mb-1 font-semibold">The part</h2>
          <div className="grid grid-cols-[110px_1fr] items-baseline gap-x-2 gap-y-1.5">
            <Field
              label="name"
              value={device.name}
              placeholder="as the data sheet calls it"
              onChange={(name) => setDevice({ name, ...(fixedId ? {} : { id: idFrom(name) }) })}
            />
            <Field
              label="id"
              mono
              disabled={fixedId}
              value={device.id}
              placeholder="in plan files"
              onChange={(id) => setDevice({ id })}
            />
            <Field label="maker" value={device.maker} onChange={(maker) => setDevice({ maker })} />
            <Field
              label="in a sentence"
              value={device.summary}
              onChange={(summary) => setDevice({ summary })}
            />
            <Field
              label="document"
              value={source.document}
              placeholder="data sheet"
              onChange={(document) => setDevice({ source: { ...source, document } })}
            />
            <Field
              label="revision"
              value={source.revision ?? ''}
              onChange={(revision) => setDevice({ source: { ...source, revision } })}
            />
          </div>
        </section>
        <section>
          <h2 className="mb-1 font-semibold">Packages</h2>
          {file.packages.map((one) => (
            <PackageFields
              key={one.id}
              id={one.id}
              name={one.name}
              shape={one.shape}
              removes={one.removes ?? []}
              terminals={reading.pads.flatMap((pad) =>
                pad.terminals.filter((t) => t.package === one.id).map((t) => t.terminal),
              )}
              onChange={(change) =>
                setRest({ packages: { ...rest.packages, [one.id]: { ...rest.packages[one.id], ...change } } })
              }
            />
          ))}
          {file.packages.length === 0 && <p className="text-soft">They come with the pinout table.</p>}
        </section>
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
                    setRest({
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
                    setRest({
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
                    setRest({
                      padClasses: { ...rest.padClasses, [id]: { ...one, title: event.target.value } },
                    })
                  }
                />
                <NumberField
                  label={`Highest input voltage of class ${id}`}
                  value={one.toleratesVolts}
                  onChange={(toleratesVolts) =>
                    setRest({ padClasses: { ...rest.padClasses, [id]: { ...one, toleratesVolts } } })
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
                  onChange={(event) => setRest({ notes: { ...rest.notes, [id]: event.target.value } })}
                />
              </li>
            ))}
          </ul>
        </section>
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
                            setRest({
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
      </div>
    </ScrollRegion>
  );
}

/** `Corvane C40-80` → `corvane-c40-80`. */
export const idFrom = (name: string): string =>
  name
    .normalize('NFKD')
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-+|-+$/g, '')
    .slice(0, 80);

interface FieldProps {
  label: string;
  value: string;
  mono?: boolean;
  disabled?: boolean;
  placeholder?: string;
  onChange: (text: string) => void;
}

function Field({ label, value, mono, disabled, placeholder, onChange }: FieldProps) {
  const id = `part-${label.replace(/\s+/g, '-')}`;
  return (
    <>
      <label htmlFor={id} className="text-soft">
        {label}
      </label>
      <input
        id={id}
        className={mono ? 'm' : ''}
        maxLength={300}
        disabled={disabled}
        placeholder={placeholder}
        value={value}
        onChange={(event) => onChange(event.target.value)}
      />
    </>
  );
}

function NumberField({
  label,
  value,
  onChange,
}: {
  label: string;
  value: number | undefined;
  onChange: (value: number | undefined) => void;
}) {
  return (
    <input
      key={value === undefined ? 'none' : 'some'}
      aria-label={label}
      className="m text-right"
      inputMode="decimal"
      placeholder="not stated"
      defaultValue={value ?? ''}
      onBlur={(event) => {
        const number = Number.parseFloat(event.target.value.replace(',', '.'));
        onChange(Number.isNaN(number) ? undefined : number);
      }}
    />
  );
}

interface PackageProps {
  id: string;
  name: string;
  shape: PackageShape;
  removes: Removal[];
  terminals: string[];
  onChange: (change: { name?: string; shape?: PackageShape; removes?: Removal[] }) => void;
}

function PackageFields({ id, name, shape, removes, terminals, onChange }: PackageProps) {
  const setRemoval = (index: number, change: Partial<Removal>): void =>
    onChange({ removes: removes.map((one, i) => (i === index ? { ...one, ...change } : one)) });
  const words = (text: string): string[] | undefined => {
    const list = text.split(/[\s,;]+/).filter(Boolean);
    return list.length > 0 ? list : undefined;
  };
  return (
    <div className="border-b border-rule py-1.5">
      <div className="flex flex-wrap items-baseline gap-2">
        <span className="m w-14 font-medium">{id}</span>
        <input
          aria-label={`Name of package ${id}`}
          className="w-40"
          maxLength={80}
          value={name}
          onChange={(event) => onChange({ name: event.target.value })}
        />
        <select
          aria-label={`Shape of package ${id}`}
          value={shape.kind}
          onChange={(event) =>
            onChange({ shape: reshaped(event.target.value as PackageShape['kind'], terminals) })
          }
        >
          <option value="dual-row">two rows</option>
          <option value="quad">four sides</option>
          <option value="ball-grid">ball grid</option>
        </select>
        <span className="text-soft">
          {shapeName(shape)}, {terminals.length} terminals told
        </span>
        <button
          type="button"
          className="link ml-auto"
          onClick={() => onChange({ removes: [...removes, { why: '' }] })}
        >
          add a note that takes something away
        </button>
      </div>
      {removes.map((one, index) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: notes have no identity but their place in the list
        <div key={index} className="mt-1 flex flex-wrap items-baseline gap-1.5 pl-16">
          <input
            aria-label={`Signals that note ${index + 1} of ${id} takes away`}
            className="m w-36"
            placeholder="signals, SPI3.*"
            defaultValue={one.signals?.join(' ') ?? ''}
            onBlur={(event) => setRemoval(index, { signals: words(event.target.value) })}
          />
          <input
            aria-label={`Pads that note ${index + 1} of ${id} speaks of`}
            className="m w-24"
            placeholder="on pads"
            defaultValue={one.pads?.join(' ') ?? ''}
            onBlur={(event) => setRemoval(index, { pads: words(event.target.value) })}
          />
          <input
            aria-label={`Highest rate by note ${index + 1} of ${id}, in hertz`}
            className="m w-28"
            placeholder="or at most, Hz"
            inputMode="numeric"
            defaultValue={one.highestHertz ?? ''}
            onBlur={(event) => {
              const hertz = Number.parseInt(event.target.value, 10);
              setRemoval(index, { highestHertz: Number.isNaN(hertz) || hertz < 1 ? undefined : hertz });
            }}
          />
          <input
            aria-label={`Text of note ${index + 1} of ${id}`}
            className="min-w-40 flex-1"
            placeholder="why, as the document says it"
            maxLength={400}
            value={one.why}
            onChange={(event) => setRemoval(index, { why: event.target.value })}
          />
          <button
            type="button"
            className="link"
            onClick={() => onChange({ removes: removes.filter((_, i) => i !== index) })}
          >
            remove
          </button>
        </div>
      ))}
    </div>
  );
}

/** Another shape for the same terminals. */
function reshaped(kind: PackageShape['kind'], terminals: readonly string[]): PackageShape {
  const guess = inferShape(terminals);
  if (guess.kind === kind) return guess;
  const highest = Math.max(2, ...terminals.map(Number).filter(Number.isInteger));
  if (kind === 'ball-grid') {
    const side = Math.ceil(Math.sqrt(terminals.length));
    return { kind, rows: ballRows(side), columns: side };
  }
  return { kind, terminals: highest };
}
