'use client';

import { largest } from '@/core/base/lists';
import type { PackageShape, Removal } from '@/core/description/types';
import { ballRows, inferShape, shapeName } from '@/core/import/compose/infer';

interface Props {
  id: string;
  name: string;
  shape: PackageShape;
  removes: Removal[];
  pins: string[];
  onChange: (change: { name?: string; shape?: PackageShape; removes?: Removal[] }) => void;
}

/** Name and shape of a package, and what its notes take away. */
export function PackageFields({ id, name, shape, removes, pins, onChange }: Props) {
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
            onChange({ shape: reshaped(event.target.value as PackageShape['kind'], pins) })
          }
        >
          <option value="dual-row">two rows</option>
          <option value="quad">four sides</option>
          <option value="ball-grid">ball grid</option>
        </select>
        <span className="text-soft">
          {shapeName(shape)}, {pins.length} pins told
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

/** Another shape for the same pins. */
function reshaped(kind: PackageShape['kind'], pins: readonly string[]): PackageShape {
  const guess = inferShape(pins);
  if (guess.kind === kind) return guess;
  const highest = Math.max(2, largest(pins.map(Number).filter(Number.isInteger)));
  if (kind === 'ball-grid') {
    const side = Math.ceil(Math.sqrt(pins.length));
    return { kind, rows: ballRows(side), columns: side };
  }
  return { kind, pins: highest };
}
