'use client';

import { useMemo, useState } from 'react';
import { printRecipeText, readRecipeText } from '@/core/description/part-text/text-form';
import type { DeviceDescription } from '@/core/description/types';
import { loadDevice } from '@/core/device/compile/load';
import { buildRecipe } from '@/core/import/attach/build';
import type { FieldRoleChoice, GateChoice } from '@/core/import/attach/choices';
import type { OpenRegisters } from '@/core/import/attach/open-registers';
import { ROLE_KINDS } from '@/core/import/attach/roles';
import { statementsOf } from '@/core/import/attach/statements';
import type { PartDraft } from '@/core/import/compose/draft';
import { Trial } from '../part/recipe-trial';
import { ConfirmList } from '../parts/confirm-list';
import { ProblemAlert } from '../parts/problem-alert';
import { ClockGates } from './clock-gates';
import { RoleRow } from './role-row';

interface Props {
  file: OpenRegisters;
  description: DeviceDescription;
  draft: PartDraft;
  onDraft: (draft: PartDraft) => void;
  onClose: () => void;
}

/** Which register is what: proposals with their reasons, changed by hand, and tried at once beside. */
export function AttachRegisters({ file, description, draft, onDraft, onClose }: Props) {
  const pads = useMemo(
    () => description.pads.filter((pad) => pad.kind === 'io' && pad.port !== undefined),
    [description],
  );
  const { proposal } = file;
  const ports = useMemo(() => [...new Set(pads.map((pad) => pad.port ?? ''))], [pads]);
  const [choices, setChoices] = useState<FieldRoleChoice[]>(proposal.choices);
  const [gates, setGates] = useState<GateChoice[]>(proposal.gates);
  const [text, setText] = useState<string | null>(null);
  /** Statements that somebody has compared with the document, or made. */
  const [known, setKnown] = useState<ReadonlySet<string>>(new Set());
  const open = useMemo(
    () => statementsOf(proposal, choices, gates, known),
    [proposal, choices, gates, known],
  );

  const built = useMemo(
    () => buildRecipe(proposal, ports, pads, { endian: file.endian, choices, gates }),
    [proposal, ports, pads, file.endian, choices, gates],
  );
  const loaded = useMemo(() => {
    let { recipe } = built;
    if (text !== null) {
      const read = readRecipeText('recipe.part', text);
      if (!read.ok) return { recipe, device: read };
      recipe = read.value;
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

  const change = (role: FieldRoleChoice['role'], next: Partial<FieldRoleChoice>): void => {
    setText(null);
    const before = choices.find((one) => one.role === role);
    // What is changed by hand was looked at; another register has other values.
    const touched = Object.entries(next.values ?? {})
      .filter(([value, number]) => next.place === undefined && before?.values[value] !== number)
      .map(([value]) => `${role} ${value}`);
    setKnown(new Set([...known, ...touched]));
    setChoices((old) => old.map((one) => (one.role === role ? { ...one, ...next } : one)));
  };
  const decides = choices.some((one) => ['mode', 'direction'].includes(one.role) && one.place !== null);

  function take() {
    onDraft({
      ...draft,
      padColumns: { ...draft.padColumns, ...built.padColumns },
      rest: { ...draft.rest, recipe: loaded.recipe, unconfirmed: open },
    });
    onClose();
  }

  return (
    <div className="grid gap-x-8 gap-y-4 xl:grid-cols-[minmax(0,1fr)_minmax(0,560px)]">
      <section>
        <div className="mb-1 flex items-baseline gap-3">
          <h2 className="text-[16px] font-semibold">Which register is what</h2>
          <span className="text-soft">
            {file.name}: {file.blocks} blocks, {file.registers} registers; {proposal.families.length} of them
            repeat for each port or pad
          </span>
        </div>
        {file.notCarried.length > 0 && (
          <p className="mb-1 text-warn">
            △ Not carried over, to be said in the text below: {file.notCarried.join('; ')}
          </p>
        )}
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
        <ClockGates
          ports={ports}
          gates={gates}
          others={[...proposal.gates, ...proposal.otherGates]}
          onChange={(next) => {
            setText(null);
            const touched = next.flatMap((gate, i) =>
              Object.entries(gate.ports)
                .filter(([port, bit]) => gates[i] && gates[i]?.ports[port] !== bit)
                .map(([port]) => `gate ${port}`),
            );
            setKnown(new Set([...known, ...touched]));
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
            aria-label="Text of the hardware"
            spellCheck={false}
            className="m mt-1 h-72 w-full"
            value={text ?? printRecipeText(built.recipe)}
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
        <ConfirmList open={open} onConfirm={(ids) => setKnown(new Set([...known, ...ids]))} />
        {!decides && (
          <p className="mb-2 text-warn">
            △ No register decides between input and output yet: choose direction or mode.
          </p>
        )}
        {loaded.device.ok ? (
          <Trial device={loaded.device.value} />
        ) : (
          <ProblemAlert problems={loaded.device.problems} most={10} title="It does not hold together yet:" />
        )}
      </section>
    </div>
  );
}
