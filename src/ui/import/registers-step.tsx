'use client';

import { useEffect, useRef, useState } from 'react';
import { LIMITS, tooLarge } from '@/core/base/limits';
import type { Problem } from '@/core/base/problems';
import type { OpenRegisters } from '@/core/import/attach/open-registers';
import { type DraftReading, type PartDraft, restOf } from '@/core/import/compose/draft';
import type { ReadFileAnswer } from '@/core/import/compose/import-task';
import { api } from '../client/api';
import { type Reading, readAnyFile } from '../client/import-worker';
import { ProblemAlert } from '../parts/problem-alert';
import { ScrollRegion } from '../parts/scroll-region';
import { AttachRegisters } from './attach-registers';
import { HardwareQuestions } from './hardware-questions';
import { type HardwareSession, newSession } from './hardware-session';
import { RegistersEmpty } from './registers-empty';

interface Props {
  draft: PartDraft;
  reading: DraftReading;
  /** The register description that is open. */
  file: OpenRegisters | null;
  onFile: (file: OpenRegisters | null) => void;
  /** A register description that was dropped on another step. */
  dropped: File | null;
  onDraft: (draft: PartDraft) => void;
  /** The questions, once somebody has begun to answer them; they stay while other steps are looked at. */
  session: HardwareSession | null;
  onSession: (session: HardwareSession) => void;
}

/** The registers: from a register description with roles attached, or from a recipe file. Optional; it can be done later. */
export function RegistersStep(props: Props) {
  const { draft, reading, file, onFile: setFile, dropped, onDraft, session, onSession } = props;
  const [asking, setAsking] = useState(session !== null && draft.rest.recipe === null);
  const [progress, setProgress] = useState<{ name: string; done: number } | null>(null);
  const [problems, setProblems] = useState<Problem[]>([]);
  const running = useRef<Reading<ReadFileAnswer> | null>(null);
  useEffect(() => () => running.current?.cancel(), []);

  async function open(chosen: File | undefined) {
    if (!chosen) return;
    setProblems([]);
    if (/\.(json|part)$/i.test(chosen.name)) {
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
    const pads = reading.pads.flatMap(({ id, kind, port, bit }) =>
      kind === 'io' && port !== undefined && bit !== undefined ? [{ id, port, bit }] : [],
    );
    const task = readAnyFile(
      chosen.name,
      await chosen.arrayBuffer(),
      'pinout',
      (done) => setProgress({ name: chosen.name, done }),
      pads,
    );
    running.current = task;
    const result = await task.result;
    running.current = null;
    setProgress(null);
    if (!result.ok) setProblems(result.problems);
    else if (result.value.kind === 'registers') setFile(result.value.open ?? null);
    else {
      const message = `holds no registers: it is ${result.value.kind === 'pdf' ? 'a PDF document' : `a ${result.value.kind === 'part' ? 'whole part' : 'table'}`}; CMSIS-SVD, IP-XACT, SystemRDL or a part's text is needed`;
      setProblems([{ place: chosen.name, message }]);
    }
  }

  // biome-ignore lint/correctness/useExhaustiveDependencies: it is opened once, when it was dropped
  useEffect(() => void open(dropped ?? undefined), [dropped]);

  const { description } = reading;
  // Of long tables the description comes a moment later.
  if (!description && reading.pads.some((pad) => pad.port !== undefined))
    return (
      <p className="px-6 py-4 text-soft" aria-busy="true">
        Reading the tables …
      </p>
    );
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
  if (asking && session && !file)
    return (
      <HardwareQuestions
        description={description}
        session={session}
        onSession={onSession}
        onLeave={() => setAsking(false)}
        onTake={(recipe, padColumns) => {
          const { unconfirmed: _proposed, ...rest } = draft.rest;
          onDraft({
            ...draft,
            padColumns: { ...draft.padColumns, ...padColumns },
            rest: { ...rest, recipe },
          });
          setAsking(false);
        }}
      />
    );
  return (
    <ScrollRegion label="Registers" className="h-full px-6 py-3">
      <ProblemAlert problems={problems} className="mb-3" />
      {file ? (
        <AttachRegisters
          file={file}
          description={description}
          draft={draft}
          onDraft={onDraft}
          onClose={() => setFile(null)}
        />
      ) : (
        <RegistersEmpty
          description={description}
          has={draft.rest.recipe !== null}
          onFile={(chosen) => void open(chosen)}
          onClear={() => onDraft({ ...draft, rest: { ...draft.rest, recipe: null } })}
          onAsk={() => {
            if (!session) onSession(newSession());
            setAsking(true);
          }}
        />
      )}
    </ScrollRegion>
  );
}
