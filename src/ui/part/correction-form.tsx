'use client';

import { type FormEvent, useMemo, useState } from 'react';
import { newId } from '@/core/base/text/new-id';
import {
  PAD_FIELDS,
  PLACE_FIELDS,
  REGISTER_FIELDS,
  readDatum,
  saysText,
  WHAT,
  whatText,
  whyNotValue,
} from '@/core/description/corrections';
import type { Correction } from '@/core/description/types';
import type { Device } from '@/core/device/device';

interface Props {
  device: Device;
  what: string[];
  busy: boolean;
  onAdd: (correction: Correction) => Promise<boolean>;
}

/** A datum, what is right, and why. */
export function CorrectionForm({ device, what, busy, onAdd }: Props) {
  const [kind, setKind] = useState(WHAT.find((one) => one.path[0] === what[0])?.path[0] ?? 'function');
  const [first, setFirst] = useState(what[1] ?? '');
  const [second, setSecond] = useState(what[2] ?? '');
  const [to, setTo] = useState('');
  const [nothing, setNothing] = useState(false);
  const [why, setWhy] = useState('');
  const [who, setWho] = useState(() => {
    try {
      return localStorage.getItem('mavrek:who') ?? '';
    } catch {
      return '';
    }
  });
  const [complaint, setComplaint] = useState('');
  const choice = WHAT.find((one) => one.path[0] === kind) ?? (WHAT[0] as (typeof WHAT)[number]);
  const names: readonly string[] = choice.path;
  const fixed = FIXED[kind];
  const path =
    names.length === 2 ? [kind, first] : [kind, first, fixed?.length === 1 ? (fixed[0] ?? '') : second];
  const { description } = device;
  const now = readDatum(description, path);
  const lists = useMemo(() => suggestions(device, kind, first), [device, kind, first]);

  async function add(event: FormEvent) {
    event.preventDefault();
    const value = nothing ? null : to.trim();
    const problem =
      now === undefined
        ? `There is no ${whatText(path)}.`
        : value === (now ?? '')
          ? 'That is what the description says already.'
          : whyNotValue(description, path, value);
    if (problem !== undefined) {
      setComplaint(problem);
      return;
    }
    setComplaint('');
    try {
      localStorage.setItem('mavrek:who', who);
    } catch {
      // Without storage the name is asked for again.
    }
    const correction: Correction = {
      id: newId(),
      what: path,
      from: now ?? null,
      to: value,
      why: why.trim(),
      who: who.trim(),
      when: new Date().toISOString(),
    };
    if (await onAdd(correction)) {
      setTo('');
      setWhy('');
    }
  }

  const field = (
    id: string,
    label: string,
    value: string,
    set: (text: string) => void,
    list: readonly string[],
  ) => (
    <span className="flex flex-col">
      <label htmlFor={id} className="text-[12px] text-soft">
        {label}
      </label>
      <input
        id={id}
        className="m w-40"
        list={`${id}-list`}
        value={value}
        onChange={(event) => set(event.target.value)}
      />
      <datalist id={`${id}-list`}>
        {list.map((one) => (
          <option key={one} value={one} />
        ))}
      </datalist>
    </span>
  );

  return (
    <form onSubmit={(event) => void add(event)} className="max-w-4xl border-t border-ink pt-2">
      <h2 className="mb-1 font-semibold">Correct a datum</h2>
      <div className="flex flex-wrap items-end gap-2">
        <span className="flex flex-col">
          <label htmlFor="correct-kind" className="text-[12px] text-soft">
            what
          </label>
          <select
            id="correct-kind"
            value={kind}
            onChange={(event) => {
              setKind(event.target.value as typeof kind);
              setFirst('');
              setSecond('');
            }}
          >
            {WHAT.map((one) => (
              <option key={one.path[0]} value={one.path[0]}>
                {one.title}
              </option>
            ))}
          </select>
        </span>
        {field('correct-first', names[1] ?? '', first, setFirst, lists.first)}
        {names.length > 2 &&
          !(fixed?.length === 1) &&
          field('correct-second', names[2] ?? '', second, setSecond, fixed ?? lists.second)}
      </div>
      <p className="mt-1.5" role="status">
        {first === '' ? (
          <span className="text-soft">Say which, and what the document has is shown here.</span>
        ) : now === undefined ? (
          <span className="text-soft">There is no {whatText(path)}.</span>
        ) : (
          <>
            The description says <b className="m font-medium">{saysText(now)}</b>.
          </>
        )}
      </p>
      <div className="mt-1.5 flex flex-wrap items-end gap-2">
        <span className="flex flex-col">
          <label htmlFor="correct-to" className="text-[12px] text-soft">
            right is ({choice.value})
          </label>
          <input
            id="correct-to"
            className="m w-40"
            disabled={nothing}
            value={nothing ? '' : to}
            onChange={(event) => setTo(event.target.value)}
          />
        </span>
        <label className="flex items-center gap-1 pb-1">
          <input type="checkbox" checked={nothing} onChange={(event) => setNothing(event.target.checked)} />{' '}
          nothing
        </label>
        <span className="flex min-w-48 flex-1 flex-col">
          <label htmlFor="correct-why" className="text-[12px] text-soft">
            why
          </label>
          <input
            id="correct-why"
            required
            maxLength={1000}
            placeholder="erratum, measurement, other table"
            value={why}
            onChange={(event) => setWhy(event.target.value)}
          />
        </span>
        <span className="flex flex-col">
          <label htmlFor="correct-who" className="text-[12px] text-soft">
            who
          </label>
          <input
            id="correct-who"
            className="w-28"
            maxLength={120}
            value={who}
            onChange={(event) => setWho(event.target.value)}
          />
        </span>
        <button type="submit" className="button button-strong" disabled={busy || first === ''}>
          Correct
        </button>
      </div>
      {complaint !== '' && (
        <p role="alert" className="mt-1 text-err">
          {complaint}
        </p>
      )}
    </form>
  );
}

/** Kinds whose last word is one of a few. */
const FIXED: Record<string, readonly string[] | undefined> = {
  pad: PAD_FIELDS,
  register: REGISTER_FIELDS,
  field: PLACE_FIELDS,
  peripheral: ['highestHertz'],
  class: ['toleratesVolts'],
  supply: ['nominalVolts'],
};

function suggestions(device: Device, kind: string, first: string): { first: string[]; second: string[] } {
  const { description } = device;
  const pads = description.pads.map((pad) => pad.id);
  switch (kind) {
    case 'pin':
      return {
        first: description.packages.map((one) => one.id),
        second: Object.keys(device.packages.get(first)?.pins ?? {}),
      };
    case 'function':
      return {
        first: pads,
        second: [
          ...new Set([
            ...(device.functionsByPad.get(first) ?? []).map((fn) => fn.signal),
            ...device.functionsBySignal.keys(),
          ]),
        ],
      };
    case 'pad':
      return { first: pads, second: [] };
    case 'peripheral':
      return { first: description.peripherals.map((one) => one.id), second: [] };
    case 'class':
      return { first: Object.keys(description.padClasses), second: [] };
    case 'supply':
      return { first: description.supplies.map((one) => one.id), second: [] };
    case 'note':
      return { first: Object.keys(description.notes), second: [] };
    case 'register':
      return {
        first: description.recipe.registers.blocks.flatMap((block) =>
          block.registers.map((register) => `${block.id}.${register.id}`),
        ),
        second: [],
      };
    case 'field':
      return { first: Object.keys(description.recipe.fields), second: [] };
    default:
      return { first: [], second: [] };
  }
}
