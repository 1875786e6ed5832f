'use client';

import Link from 'next/link';
import { useRouter, useSearchParams } from 'next/navigation';
import { useEffect, useRef, useState } from 'react';
import type { Problem } from '@/core/base/problems';
import type { OpenRegisters } from '@/core/import/attach/open-registers';
import { EMPTY_REST, type PartDraft, type TableDraft } from '@/core/import/compose/draft';
import type { ReadFileAnswer } from '@/core/import/compose/import-task';
import { headingsOf } from '@/core/import/tables/grid';
import { signatureOf, type TableKind } from '@/core/import/tables/mapping';
import { api } from '../client/api';
import { storeDocument } from '../client/documents';
import { openPart } from '../client/parts';
import { PageHead } from '../parts/page-head';
import { ProblemAlert } from '../parts/problem-alert';
import { useLeaveGuard } from '../parts/use-leave-guard';
import { draftOf, readPart } from './draft-of';
import type { HardwareSession } from './hardware-session';
import { STEPS, type StepId, Steps, whatIsMissing } from './import-steps';
import { PartStep } from './part-step';
import { RegistersStep } from './registers-step';
import { TableStep } from './table-step';
import { useDraftReading } from './use-draft-reading';

interface Known {
  id: string;
  name: string;
  revision: number;
}

interface Props {
  known: Known[];
  /** Part that is imported anew. */
  part?: string;
  /** Part that a new one is a variant of. */
  like?: string;
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
export function ImportPage({ known, part, like }: Props) {
  const router = useRouter();
  const params = useSearchParams();
  const [step, setStep] = useState<StepId>(
    STEPS.find((one) => one.id === params.get('step'))?.id ?? 'pinout',
  );
  const [draft, setDraft] = useState<PartDraft>(START);
  const [problems, setProblems] = useState<Problem[]>([]);
  const [busy, setBusy] = useState(false);
  const documents = useRef(new Map<string, File>());
  const keepDocument = (sha256: string, file: File): void => {
    documents.current.set(sha256, file);
  };
  const [registers, setRegisters] = useState<OpenRegisters | null>(null);
  const [dropped, setDropped] = useState<File | null>(null);
  const [hardware, setHardware] = useState<HardwareSession | null>(null);
  const [loading, setLoading] = useState(part !== undefined || like !== undefined);
  // Tables may be long, so they are read a moment later than they are typed; the fields of the part are read at once.
  const { reading, current, print } = useDraftReading(draft, START, {
    whole: step === 'registers',
    atOnce: step === 'part',
  });
  const touched = draft !== START && !loading;

  useEffect(() => {
    const model = part ?? like;
    if (model === undefined) return;
    let current = true;
    void openPart(model).then((answer) => {
      if (!current) return;
      if (answer.ok) {
        const own = draftOf(answer.device.original);
        // A variant has all of its model but the name.
        setDraft(part === undefined ? { ...own, device: { ...own.device, id: '', name: '' } } : own);
      } else setProblems([{ place: model, message: answer.message }]);
      setLoading(false);
    });
    return () => {
      current = false;
    };
  }, [part, like]);

  useLeaveGuard(touched && !busy);

  const setTable = (kind: TableKind) => (table: TableDraft | null) => {
    // Proposals for registers are for the pads that there were.
    if (kind === 'pinout' && registers) setRegisters(null);
    setDraft((old) => {
      // Functions that stand in the pinout table have its cells.
      if (kind === 'functions' && table?.shared && old.pinout)
        return { ...old, functions: table, pinout: { ...old.pinout, grid: table.grid } };
      if (kind === 'pinout' && old.functions?.shared)
        return { ...old, pinout: table, functions: table && { ...old.functions, grid: table.grid } };
      return { ...old, [kind]: table };
    });
  };

  /** A file that was dropped where a table was expected, and is something else. */
  async function takeOther(content: Exclude<ReadFileAnswer, { kind: 'tables' | 'pdf' }>, file: File | null) {
    setProblems([]);
    if (content.kind === 'part') {
      const description = await readPart(content.files);
      if (!description.ok) {
        setProblems(description.problems);
        return;
      }
      setDraft(draftOf(description.value));
      setStep('part');
    } else {
      setDropped(file);
      setStep('registers');
    }
  }

  const missing = whatIsMissing(draft, reading);
  const replaces = known.find((one) => one.id === draft.device.id);

  async function store() {
    setBusy(true);
    const { device } = draft;
    const printed = await print();
    if (!printed.ok) {
      setProblems(printed.problems);
      setBusy(false);
      return;
    }
    const answer = await api.storePart(`${device.id}.device.json`, printed.value, replaces?.revision ?? 0);
    if (!answer.ok) {
      setProblems(answer.problems);
      setBusy(false);
      return;
    }
    // Pages that data was read from can be looked at later; a part without them is whole too.
    const files = new Set([draft.pinout?.source.file, draft.functions?.source.file]);
    await Promise.all(
      [...documents.current].flatMap(([sha256, file]) =>
        files.has(sha256) ? [storeDocument(sha256, file)] : [],
      ),
    );
    await Promise.all((['pinout', 'functions'] as const).map((kind) => rememberColumns(kind, draft[kind])));
    router.push(`/parts/${device.id}`);
  }

  async function storeFile(file: File | undefined) {
    if (!file) return;
    const text = await file.text();
    await takeOther({ kind: 'part', name: file.name, files: [{ name: file.name, text }] }, null);
  }

  return (
    <div className="flex h-dvh flex-col overflow-hidden">
      <PageHead here="/parts" />
      <main className="flex min-h-0 flex-1 flex-col">
        <div className="flex flex-wrap items-center gap-x-4 gap-y-1 border-b border-ink bg-sheet px-6 pt-1.5">
          <h1 className="text-[17px] font-semibold">
            {like !== undefined
              ? `A variant of ${known.find((one) => one.id === like)?.name}`
              : part === undefined
                ? 'Import a part'
                : `Import ${known.find((one) => one.id === part)?.name} anew`}
          </h1>
          <Steps step={step} draft={draft} reading={reading} onStep={setStep} />
          {draft === START && (
            <label className="link cursor-pointer">
              or a whole description (mavrek-device/3)
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
              className={reading.errors > 0 ? 'text-err' : reading.questions > 0 ? 'text-pick' : 'text-soft'}
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
              disabled={missing !== undefined || busy || !current}
              onClick={() => void store()}
            >
              Store the part
            </button>
          </span>
        </div>
        <ProblemAlert
          problems={problems}
          most={20}
          title="The part was not stored."
          className="mx-6 my-2"
          onClose={() => setProblems([])}
        />
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
              onDocument={keepDocument}
              onOther={(content, file) => void takeOther(content, file)}
            />
          ) : step === 'functions' ? (
            <TableStep
              key="functions"
              kind="functions"
              draft={draft.functions}
              state={reading.functionTable}
              pinout={draft.pinout}
              onDraft={setTable('functions')}
              onDocument={keepDocument}
              onOther={(content, file) => void takeOther(content, file)}
            />
          ) : step === 'part' ? (
            <PartStep draft={draft} reading={reading} fixedId={part !== undefined} onDraft={setDraft} />
          ) : (
            <RegistersStep
              draft={draft}
              reading={reading}
              file={registers}
              onFile={(opened) => {
                setRegisters(opened);
                setDropped(null);
              }}
              dropped={dropped}
              onDraft={setDraft}
              session={hardware}
              onSession={setHardware}
            />
          )}
        </div>
      </main>
    </div>
  );
}

async function rememberColumns(kind: TableKind, table: TableDraft | null): Promise<void> {
  if (!table || table.grid.known || table.mapping.headerRow < 0) return;
  await api.rememberMapping(signatureOf(kind, headingsOf(table.grid, table.mapping)), table.mapping);
}
