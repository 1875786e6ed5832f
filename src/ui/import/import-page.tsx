'use client';

import Link from 'next/link';
import { useRouter, useSearchParams } from 'next/navigation';
import { useDeferredValue, useEffect, useMemo, useState } from 'react';
import { printDevice } from '@/core/formats/print-device';
import { loadDevice } from '@/core/recipe/device';
import type { Problem } from '@/core/result';
import {
  type DraftReading,
  EMPTY_REST,
  type PartDraft,
  readDraft,
  type TableDraft,
} from '@/core/tables/draft';
import { signatureOf, type TableKind } from '@/core/tables/mapping';
import { api } from '../client/api';
import { openPart } from '../client/parts';
import { PageHead } from '../parts/page-head';
import { draftOf } from './draft-of';
import { PartStep } from './part-step';
import { RegistersStep } from './registers-step';
import { TableStep } from './table-step';

const STEPS = [
  { id: 'pinout', title: 'Pinout' },
  { id: 'functions', title: 'Functions' },
  { id: 'part', title: 'Part' },
  { id: 'registers', title: 'Registers' },
] as const;
type StepId = (typeof STEPS)[number]['id'];

interface Known {
  id: string;
  name: string;
  revision: number;
}

interface Props {
  known: Known[];
  /** Part that is imported anew. */
  part?: string;
}

const START: PartDraft = {
  pinout: null,
  functions: null,
  device: { id: '', name: '', maker: '', summary: '' },
  rest: EMPTY_REST,
  corrections: [],
  padColumns: {},
};

/** A part out of the user's own tables: pinout, functions, what they do not say, and registers; stored when it holds together. */
export function ImportPage({ known, part }: Props) {
  const router = useRouter();
  const params = useSearchParams();
  const [step, setStep] = useState<StepId>(
    STEPS.find((one) => one.id === params.get('step'))?.id ?? 'pinout',
  );
  const [draft, setDraft] = useState<PartDraft>(START);
  const [problems, setProblems] = useState<Problem[]>([]);
  const [busy, setBusy] = useState(false);
  const [loading, setLoading] = useState(part !== undefined);
  const shown = useDeferredValue(draft);
  // Tables may be long, so they are read a moment later than they are typed; the fields of the part are read at once.
  const current = step === 'part' ? draft : shown;
  const reading = useMemo(() => readDraft(current), [current]);
  const touched = draft !== START && !loading;

  useEffect(() => {
    if (part === undefined) return;
    let current = true;
    void openPart(part).then((answer) => {
      if (!current) return;
      if (answer.ok) setDraft(draftOf(answer.device.original));
      else setProblems([{ place: part, message: answer.message }]);
      setLoading(false);
    });
    return () => {
      current = false;
    };
  }, [part]);

  useEffect(() => {
    if (!touched || busy) return;
    const warn = (event: BeforeUnloadEvent): void => event.preventDefault();
    window.addEventListener('beforeunload', warn);
    return () => window.removeEventListener('beforeunload', warn);
  }, [touched, busy]);

  const setTable = (kind: TableKind) => (table: TableDraft | null) =>
    setDraft((old) => {
      // A description in one file needs no tables: it is stored as it is.
      return { ...old, [kind]: table };
    });

  const missing = whatIsMissing(draft, reading);
  const replaces = known.find((one) => one.id === draft.device.id);

  async function store() {
    const fresh = readDraft(draft);
    if (!fresh.description) return;
    const loaded = loadDevice(fresh.description);
    if (!loaded.ok) {
      setProblems(loaded.problems);
      return;
    }
    setBusy(true);
    const { device } = draft;
    const answer = await api.storePart(
      `${device.id}.device.json`,
      printDevice(fresh.description),
      replaces?.revision ?? 0,
    );
    if (!answer.ok) {
      setProblems(answer.problems);
      setBusy(false);
      return;
    }
    await Promise.all((['pinout', 'functions'] as const).map((kind) => rememberColumns(kind, draft[kind])));
    router.push(`/parts/${device.id}`);
  }

  async function storeFile(file: File | undefined) {
    if (!file) return;
    const text = await file.text();
    const description = await api.readDescription(file.name, text);
    if (!description.ok) {
      setProblems(description.problems);
      return;
    }
    setProblems([]);
    setDraft(draftOf(description.value));
    setStep('part');
  }

  return (
    <div className="flex h-dvh flex-col overflow-hidden">
      <PageHead here="/parts" />
      <main className="flex min-h-0 flex-1 flex-col">
        <div className="flex flex-wrap items-center gap-x-4 gap-y-1 border-b border-ink bg-sheet px-6 pt-1.5">
          <h1 className="text-[17px] font-semibold">
            {part === undefined
              ? 'Import a part'
              : `Import ${known.find((one) => one.id === part)?.name} anew`}
          </h1>
          <nav aria-label="Steps" className="flex gap-0.5">
            {STEPS.map((one) => (
              <button
                key={one.id}
                type="button"
                aria-current={step === one.id ? 'step' : undefined}
                className={`border-b-2 px-2 py-1 ${step === one.id ? 'border-pick font-medium' : 'border-transparent text-soft hover:text-ink'}`}
                onClick={() => setStep(one.id)}
              >
                {one.title} <StepSign state={stepState(one.id, draft, reading)} />
              </button>
            ))}
          </nav>
          {draft === START && (
            <label className="link cursor-pointer">
              or a whole description (mavrek-device/1)
              <input
                type="file"
                accept=".json"
                className="sr-only"
                aria-label="description file"
                onChange={(event) => {
                  void storeFile(event.target.files?.[0]);
                  event.target.value = '';
                }}
              />
            </label>
          )}
          <span className="ml-auto flex items-center gap-3 pb-1">
            <span
              role="status"
              className={missing === undefined ? 'text-soft' : reading.errors > 0 ? 'text-err' : 'text-soft'}
            >
              {missing ??
                (replaces
                  ? `takes the place of ${replaces.name}; plans on it keep theirs until they take it over`
                  : 'ready')}
            </span>
            <Link className="button" prefetch={false} href={part === undefined ? '/parts' : `/parts/${part}`}>
              Cancel
            </Link>
            <button
              type="button"
              className="button button-strong"
              disabled={missing !== undefined || busy || current !== draft}
              onClick={() => void store()}
            >
              Store the part
            </button>
          </span>
        </div>
        {problems.length > 0 && (
          <div role="alert" className="flex gap-4 border-b border-ink bg-sheet px-6 py-1.5">
            <div className="mr-auto max-h-32 overflow-auto">
              <p className="text-err">The part was not stored.</p>
              {problems.slice(0, 20).map((one) => (
                <p key={`${one.place} ${one.message}`}>
                  <span className="m text-soft">{one.place}</span> {one.message}
                </p>
              ))}
              {problems.length > 20 && <p className="text-soft">and {problems.length - 20} more</p>}
            </div>
            <button type="button" className="link self-start" onClick={() => setProblems([])}>
              Close
            </button>
          </div>
        )}
        <div className="min-h-0 flex-1">
          {loading ? (
            <p className="p-6 text-soft" aria-busy="true">
              Reading the part …
            </p>
          ) : step === 'pinout' ? (
            <TableStep
              key="pinout"
              kind="pinout"
              draft={draft.pinout}
              state={reading.pinout}
              onDraft={setTable('pinout')}
            />
          ) : step === 'functions' ? (
            <TableStep
              key="functions"
              kind="functions"
              draft={draft.functions}
              state={reading.functionTable}
              onDraft={setTable('functions')}
            />
          ) : step === 'part' ? (
            <PartStep draft={draft} reading={reading} fixedId={part !== undefined} onDraft={setDraft} />
          ) : (
            <RegistersStep draft={draft} reading={reading} onDraft={setDraft} />
          )}
        </div>
      </main>
    </div>
  );
}

async function rememberColumns(kind: TableKind, table: TableDraft | null): Promise<void> {
  const headings = table?.grid.rows[table.mapping.headerRow]?.cells;
  if (table && headings) await api.rememberMapping(signatureOf(kind, headings), table.mapping);
}

type StepState = 'empty' | 'good' | 'warned' | 'bad';

function stepState(step: StepId, draft: PartDraft, reading: DraftReading): StepState {
  switch (step) {
    case 'pinout':
    case 'functions': {
      if (!draft[step]) return 'empty';
      const { mapping, problems } = step === 'pinout' ? reading.pinout : reading.functionTable;
      if (mapping.length > 0 || problems.some((one) => one.severity === 'error')) return 'bad';
      return problems.length > 0 ? 'warned' : 'good';
    }
    case 'part':
      return draft.device.name.trim() === '' ? 'empty' : idProblem(draft.device.id) ? 'bad' : 'good';
    case 'registers':
      return draft.rest.recipe ? 'good' : 'empty';
  }
}

const SIGNS: Record<StepState, [string, string, string]> = {
  empty: ['○', 'not yet', 'text-soft'],
  good: ['●', 'good', 'text-soft'],
  warned: ['△', 'has warnings', 'text-warn'],
  bad: ['▲', 'has errors', 'text-err'],
};

function StepSign({ state }: { state: StepState }) {
  const [sign, word, colour] = SIGNS[state];
  return (
    <span role="img" aria-label={word} title={word} className={colour}>
      {sign}
    </span>
  );
}

const idProblem = (id: string): string | undefined =>
  /^[A-Za-z0-9][A-Za-z0-9._+-]{0,79}$/.test(id) ? undefined : 'the id may hold letters, digits and - . _ +';

/** Why the part cannot be stored yet; undefined when it can. */
function whatIsMissing(draft: PartDraft, reading: DraftReading): string | undefined {
  if (!draft.pinout) return 'first the pinout';
  if (reading.errors > 0) return `${reading.errors} ${reading.errors === 1 ? 'error' : 'errors'} left`;
  if (!reading.description || reading.pads.length === 0) return 'the pinout has no pads yet';
  for (const { id, removes = [] } of reading.file.packages)
    if (removes.some((one) => !one.signals && !one.pads))
      return `a note of package ${id} says neither signals nor pads`;
  if (draft.device.name.trim() === '') return 'the part needs a name';
  return idProblem(draft.device.id);
}
