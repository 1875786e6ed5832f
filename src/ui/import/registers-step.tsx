'use client';

import { type DragEvent, useEffect, useMemo, useRef, useState } from 'react';
import { buildRecipe } from '@/core/attach/build';
import { placeTitle } from '@/core/attach/places';
import {
  type GateChoice,
  type Proposal,
  propose,
  ROLE_KINDS,
  type RoleChoice,
  roleKind,
  valuesFor,
} from '@/core/attach/roles';
import type { DeviceDescription } from '@/core/device/types';
import type { RegisterFile } from '@/core/formats/svd/types';
import { LIMITS, tooLarge } from '@/core/limits';
import { loadDevice } from '@/core/recipe/device';
import { hexText } from '@/core/recipe/register-text';
import type { Problem } from '@/core/result';
import { type DraftReading, type PartDraft, restOf } from '@/core/tables/draft';
import { api } from '../client/api';
import { type Reading, readRegisterFile } from '../client/import-worker';
import { Trial } from '../part/recipe-trial';
import { ScrollRegion } from '../parts/scroll-region';

interface Props {
  draft: PartDraft;
  reading: DraftReading;
  onDraft: (draft: PartDraft) => void;
}

/** The registers: from a register description with roles attached, or from a recipe file. Optional; it can be done later. */
export function RegistersStep({ draft, reading, onDraft }: Props) {
  const [file, setFile] = useState<RegisterFile | null>(null);
  const [progress, setProgress] = useState<{ name: string; done: number } | null>(null);
  const [problems, setProblems] = useState<Problem[]>([]);
  const running = useRef<Reading<RegisterFile> | null>(null);
  useEffect(() => () => running.current?.cancel(), []);

  async function open(chosen: File | undefined) {
    if (!chosen) return;
    setProblems([]);
    if (/\.json$/i.test(chosen.name)) {
      const read = await api.readRecipe(chosen.name, await chosen.text());
      if (!read.ok) {
        setProblems(read.problems);
        return;
      }
      const { rest, device } = draft;
      const brought = restOf(read.value);
      onDraft({
        ...draft,
        device: device.name === '' ? read.value.device : device,
        rest: { ...rest, ...brought, notes: { ...rest.notes, ...brought.notes } },
      });
      return;
    }
    if (chosen.size > LIMITS.registerFileCharacters) {
      setProblems([{ place: chosen.name, message: `the file ${tooLarge('registerFileCharacters')}` }]);
      return;
    }
    setProgress({ name: chosen.name, done: 0 });
    const task = readRegisterFile(chosen.name, await chosen.text(), (done) =>
      setProgress({ name: chosen.name, done }),
    );
    running.current = task;
    const result = await task.result;
    running.current = null;
    setProgress(null);
    if (result.ok) setFile(result.value);
    else setProblems(result.problems);
  }

  const complaints = problems.length > 0 && (
    <div role="alert" className="mb-3 border border-ink px-3 py-1.5 text-err">
      {problems.slice(0, 8).map((one) => (
        <p key={`${one.place} ${one.message}`}>
          <span className="m">{one.place}</span> {one.message}
        </p>
      ))}
      {problems.length > 8 && <p>and {problems.length - 8} more</p>}
    </div>
  );
  const { description } = reading;
  if (!description || description.pads.every((pad) => pad.port === undefined))
    return (
      <p className="px-6 py-4 text-soft">
        Registers belong to ports, and ports come with the pinout table: bring that in first.
      </p>
    );
  if (progress)
    return (
      <div className="px-6 py-4">
        <p className="mb-2">
          Reading {progress.name} … <span className="m">{Math.round(progress.done * 100)} %</span>
        </p>
        <progress
          className="w-80"
          max={1}
          value={progress.done}
          aria-label="Reading the register description"
        />
        <p className="mt-2">
          <button type="button" className="button" onClick={() => running.current?.cancel()}>
            Stop
          </button>
        </p>
      </div>
    );
  return (
    <ScrollRegion label="Registers" className="h-full px-6 py-3">
      {complaints}
      {file ? (
        <Attach
          file={file}
          description={description}
          draft={draft}
          onDraft={onDraft}
          onClose={() => setFile(null)}
        />
      ) : (
        <Empty
          description={description}
          has={draft.rest.recipe !== null}
          onFile={(chosen) => void open(chosen)}
          onClear={() => onDraft({ ...draft, rest: { ...draft.rest, recipe: null } })}
        />
      )}
    </ScrollRegion>
  );
}

interface EmptyProps {
  description: DeviceDescription;
  has: boolean;
  onFile: (file: File | undefined) => void;
  onClear: () => void;
}

function Empty({ description, has, onFile, onClear }: EmptyProps) {
  const chooser = useRef<HTMLInputElement>(null);
  const device = useMemo(() => (has ? loadDevice(description) : null), [has, description]);
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: dropping a file is a shortcut; the button does the same
    <div
      onDragOver={(event) => event.preventDefault()}
      onDrop={(event: DragEvent) => {
        event.preventDefault();
        onFile(event.dataTransfer.files[0]);
      }}
    >
      <h2 className="text-[16px] font-semibold">{has ? 'The part has a recipe' : 'Attach a recipe'}</h2>
      <p className="mt-1 max-w-2xl text-soft">
        {has
          ? 'Try it on any pad. Another register description or recipe file takes its place.'
          : 'Without it, nets can be placed and checked, but there are no register values and no code. With a register description Mavrek proposes which registers are direction, pull, function and latch; you decide, and try each on a pad.'}
      </p>
      <p className="my-3 flex flex-wrap items-center gap-3">
        <button type="button" className="button button-strong" onClick={() => chooser.current?.click()}>
          Choose a file
        </button>
        <span className="text-soft">or drop one here: CMSIS-SVD (.svd, .xml), or recipe.json</span>
        {has && (
          <button type="button" className="link" onClick={onClear}>
            go without a recipe
          </button>
        )}
        <input
          ref={chooser}
          type="file"
          accept=".svd,.xml,.json"
          className="hidden"
          aria-label="register description file"
          onChange={(event) => {
            onFile(event.target.files?.[0]);
            event.target.value = '';
          }}
        />
      </p>
      {device &&
        (device.ok ? (
          <div className="border-t border-rule pt-3">
            <Trial device={device.value} />
          </div>
        ) : (
          <ul className="text-err">
            {device.problems.slice(0, 12).map((one) => (
              <li key={`${one.place} ${one.message}`}>
                <span className="m">{one.place}</span> {one.message}
              </li>
            ))}
          </ul>
        ))}
    </div>
  );
}

interface AttachProps {
  file: RegisterFile;
  description: DeviceDescription;
  draft: PartDraft;
  onDraft: (draft: PartDraft) => void;
  onClose: () => void;
}

/** Which register is what: proposals with their reasons, changed by hand, and tried at once beside. */
function Attach({ file, description, draft, onDraft, onClose }: AttachProps) {
  const pads = useMemo(
    () => description.pads.filter((pad) => pad.kind === 'io' && pad.port !== undefined),
    [description],
  );
  const proposal = useMemo(() => {
    const ports: Record<string, number> = {};
    for (const pad of pads) ports[pad.port ?? ''] = Math.max(ports[pad.port ?? ''] ?? 0, (pad.bit ?? 0) + 1);
    return propose(
      file,
      ports,
      pads.map((pad) => pad.id),
    );
  }, [file, pads]);
  const ports = useMemo(() => [...new Set(pads.map((pad) => pad.port ?? ''))], [pads]);
  const [choices, setChoices] = useState<RoleChoice[]>(proposal.choices);
  const [gates, setGates] = useState<GateChoice[]>(proposal.gates);
  const [text, setText] = useState<string | null>(null);

  const built = useMemo(
    () => buildRecipe(proposal, ports, pads, { endian: file.endian, choices, gates }),
    [proposal, ports, pads, file.endian, choices, gates],
  );
  const loaded = useMemo(() => {
    let { recipe } = built;
    if (text !== null) {
      try {
        recipe = JSON.parse(text);
      } catch (error) {
        const message = error instanceof Error ? error.message : 'not valid JSON';
        return { recipe, device: { ok: false as const, problems: [{ place: 'recipe', message }] } };
      }
    }
    const withColumns = description.pads.map((pad) => {
      const extra = built.padColumns[pad.id];
      return extra ? { ...pad, columns: { ...pad.columns, ...extra } } : pad;
    });
    try {
      return { recipe, device: loadDevice({ ...description, pads: withColumns, recipe }) };
    } catch {
      // Only a recipe typed by hand can lack whole parts.
      return {
        recipe,
        device: {
          ok: false as const,
          problems: [{ place: 'recipe', message: 'lacks a part that every recipe has' }],
        },
      };
    }
  }, [built, text, description]);

  const change = (role: RoleChoice['role'], next: Partial<RoleChoice>): void => {
    setText(null);
    setChoices((old) => old.map((one) => (one.role === role ? { ...one, ...next } : one)));
  };
  const decides = choices.some((one) => ['mode', 'direction'].includes(one.role) && one.place !== null);

  function take() {
    onDraft({
      ...draft,
      padColumns: { ...draft.padColumns, ...built.padColumns },
      rest: { ...draft.rest, recipe: loaded.recipe },
    });
    onClose();
  }

  return (
    <div className="grid gap-x-8 gap-y-4 xl:grid-cols-[minmax(0,1fr)_minmax(0,560px)]">
      <section>
        <div className="mb-1 flex items-baseline gap-3">
          <h2 className="text-[16px] font-semibold">Which register is what</h2>
          <span className="text-soft">
            {file.name}: {file.peripherals.length} blocks,{' '}
            {file.peripherals.reduce((sum, one) => sum + one.registers.length, 0)} registers;{' '}
            {proposal.families.length} of them repeat for each port or pad
          </span>
        </div>
        <table className="w-full border-collapse">
          <thead>
            <tr className="border-b border-ink text-left text-soft">
              <th className="py-0.5 pr-3 font-medium">Role</th>
              <th className="pr-3 font-medium">Register and fields</th>
              <th className="font-medium">Values</th>
            </tr>
          </thead>
          <tbody>
            {ROLE_KINDS.map((kind) => {
              const choice = choices.find((one) => one.role === kind.id);
              if (!choice) return null;
              return (
                <RoleRow
                  key={kind.id}
                  choice={choice}
                  proposal={proposal}
                  onChange={(next) => change(kind.id, next)}
                />
              );
            })}
          </tbody>
        </table>
        <Gates
          ports={ports}
          gates={gates}
          others={[...proposal.gates, ...proposal.otherGates]}
          onChange={(next) => {
            setText(null);
            setGates(next);
          }}
        />
        <details className="mt-3">
          <summary className="text-soft">The recipe as text, for what the table above cannot say</summary>
          <p className="mt-1 text-soft">
            Ready bits, locks, several settings in one field: changed here, it is tried beside at once.
            Another choice above makes it anew.
          </p>
          <textarea
            aria-label="Recipe as JSON"
            spellCheck={false}
            className="m mt-1 h-72 w-full"
            value={text ?? JSON.stringify(built.recipe, null, 2)}
            onChange={(event) => setText(event.target.value)}
          />
        </details>
      </section>
      <section className="xl:border-l xl:border-rule xl:pl-6">
        <div className="mb-2 flex items-baseline">
          <h2 className="text-[16px] font-semibold">Tried on a pad</h2>
          <span className="ml-auto flex gap-2">
            <button type="button" className="button" onClick={onClose}>
              Leave it
            </button>
            <button
              type="button"
              className="button button-strong"
              disabled={!loaded.device.ok}
              onClick={take}
            >
              Take this recipe
            </button>
          </span>
        </div>
        {!decides && (
          <p className="mb-2 text-warn">
            △ No register decides between input and output yet: choose direction or use.
          </p>
        )}
        {loaded.device.ok ? (
          <Trial device={loaded.device.value} />
        ) : (
          <div role="alert">
            <p>It does not hold together yet:</p>
            <ul className="mt-1 text-err">
              {loaded.device.problems.slice(0, 10).map((one) => (
                <li key={`${one.place} ${one.message}`}>
                  <span className="m">{one.place}</span> {one.message}
                </li>
              ))}
              {loaded.device.problems.length > 10 && <li>and {loaded.device.problems.length - 10} more</li>}
            </ul>
          </div>
        )}
      </section>
    </div>
  );
}

interface RoleRowProps {
  choice: RoleChoice;
  proposal: Proposal;
  onChange: (next: Partial<RoleChoice>) => void;
}

function RoleRow({ choice, proposal, onChange }: RoleRowProps) {
  const kind = roleKind(choice.role);
  const usable = proposal.places.filter((place) => {
    const access = place.families[0]?.access;
    if (!kind.bits.includes(place.bits)) return false;
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
              values: next ? valuesFor(kind, next.bits) : choice.values,
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
function Values({ choice, onChange }: Pick<RoleRowProps, 'choice' | 'onChange'>) {
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

interface GatesProps {
  ports: readonly string[];
  gates: readonly GateChoice[];
  others: readonly GateChoice[];
  onChange: (gates: GateChoice[]) => void;
}

/** The registers that give ports their clock, and which bit is which port's. */
function Gates({ ports, gates, others, onChange }: GatesProps) {
  const set = (index: number, change: Partial<GateChoice>): void =>
    onChange(gates.map((one, i) => (i === index ? { ...one, ...change } : one)));
  return (
    <div className="mt-3">
      <h3 className="font-semibold">Clock gates</h3>
      {gates.map((gate, index) => (
        <div key={gate.register} className="border-b border-rule py-1">
          <span className="m">{gate.register}</span>{' '}
          <span className="m text-soft">{hexText(gate.address, 32)}</span>
          <label className="ml-3 text-soft">
            open at{' '}
            <select
              className="m !h-6 !py-0"
              value={gate.opensAt}
              onChange={(event) => set(index, { opensAt: event.target.value === '0' ? 0 : 1 })}
            >
              <option value={1}>1</option>
              <option value={0}>0</option>
            </select>
          </label>
          <button
            type="button"
            className="link ml-3"
            onClick={() => onChange(gates.filter((_, i) => i !== index))}
          >
            none of it
          </button>
          <span className="mt-0.5 flex flex-wrap gap-x-3 gap-y-0.5">
            {ports.map((port) => (
              <label key={port} className="m inline-flex items-baseline gap-1">
                {port} bit
                <input
                  className="m w-9 !px-1 !h-6 !py-0 text-right"
                  inputMode="numeric"
                  value={gate.ports[port] ?? ''}
                  onChange={(event) => {
                    const bit = Number.parseInt(event.target.value, 10);
                    set(index, {
                      ports: { ...gate.ports, [port]: Number.isNaN(bit) ? 0 : Math.min(bit, gate.bits - 1) },
                    });
                  }}
                />
              </label>
            ))}
          </span>
        </div>
      ))}
      <select
        aria-label="Add a clock gate"
        className="m mt-1 !h-6 !py-0"
        value=""
        onChange={(event) => {
          const found = others.find((one) => one.register === event.target.value);
          if (found) onChange([...gates, found]);
        }}
      >
        <option value="">{gates.length === 0 ? 'none; choose one …' : 'one more …'}</option>
        {others
          .filter((one) => !gates.some((gate) => gate.register === one.register))
          .map((one) => (
            <option key={one.register}>{one.register}</option>
          ))}
      </select>
    </div>
  );
}
