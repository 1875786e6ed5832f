'use client';

import { useEffect, useRef, useState } from 'react';
import { padWords, stateWords, voltsWords } from '@/core/bench/engine/explain';
import type { StepReport } from '@/core/bench/engine/steps';
import { timeText } from '@/core/bench/script/time-text';
import { currentText } from '@/core/derive/electrical/limits';
import { bitWords, mishapText } from '@/core/derive/machine/mishap-text';
import { generateFiles, whyNoCode } from '@/core/output/generate';
import { TARGETS } from '@/core/output/targets';
import type { Net } from '@/core/plan/model/types';
import { NetInspector } from '../inspector/net-inspector';
import { Segments } from '../parts/segments';
import { operationText } from '../registers/operation-text';
import { useActions, useDerived, useSelection } from '../workspace/context';
import { AttachedHere } from './attached-here';
import { type BenchStore, benchOf, shownOperation, useBenchVersion } from './bench-store';
import { PlayHere } from './play-here';
import { Trials } from './trials';

const TABS = [
  { value: 'bench', label: 'operations' },
  { value: 'trials', label: 'trials' },
  { value: 'net', label: 'net' },
] as const;
type Tab = (typeof TABS)[number]['value'];

/** What the bench has to say: the operation that is looked at, all of them, findings, trials; and the selected net. */
export function BenchInspector() {
  const { derived } = useDerived();
  const { session } = useActions();
  const { selectedNet } = useSelection();
  const store = benchOf(session, derived);
  useBenchVersion(store);
  const [tab, setTab] = useState<Tab>('bench');
  return (
    <div className="flex min-h-full flex-col">
      <Segments
        label="Inspector of the bench"
        value={tab}
        choices={TABS}
        onChange={(next) => setTab(next as Tab)}
      />
      <div className="mt-2">
        {tab === 'trials' ? (
          <Trials store={store} />
        ) : tab === 'net' ? (
          selectedNet ? (
            <>
              <NetNow store={store} net={selectedNet} />
              <PlayHere store={store} net={selectedNet} />
              <div className="mt-3">
                <AttachedHere store={store} net={selectedNet} />
              </div>
              <div className="mt-3 border-t border-rule pt-2">
                <NetInspector key={selectedNet.id} net={selectedNet} />
              </div>
            </>
          ) : (
            <p className="text-soft">
              Select a net to see what it is on the bench, what is attached to it, and its settings.
            </p>
          )
        ) : (
          <>
            <Operation store={store} />
            <BenchFindings store={store} />
            <Operations store={store} />
          </>
        )}
      </div>
    </div>
  );
}

/** One operation: what is written, why, and what changes. */
function Operation({ store }: { store: BenchStore }) {
  const { derived } = useDerived();
  const { select } = useActions();
  const index = shownOperation(store);
  const report = store.stepReports()[index];
  if (!report)
    return (
      <p className="text-soft">
        {derived.lowered.operations.length === 0
          ? 'The plan has no initialisation yet: place a net on a pad.'
          : 'The code stops before this operation.'}
      </p>
    );
  const { operation, register, nets, pads, mishaps } = report;
  return (
    <section aria-label="Operation">
      <h2 className="text-[17px] font-semibold">Operation {index + 1}</h2>
      <p className="text-soft">
        stage {operation.stage}
        {'register' in operation ? ` · ${operation.register.name}` : ''}
      </p>
      <p className="m my-1">
        {operationText(operation)}
        {register && (
          <>
            <br />
            <span className="text-soft">
              {register.name} {register.before} → {register.after}
              {register.bits !== 0 && `, ${bitWords(register.bits, register.width)}`}
            </span>
          </>
        )}
      </p>
      {mishaps.map((one) => (
        <p key={`${one.reason} ${one.register.name} ${one.mask}`} className="text-err">
          {mishapText(operation, index, one)}
        </p>
      ))}
      <dl className="my-2 grid grid-cols-[52px_1fr] gap-y-1">
        <dt className="text-soft">why</dt>
        <dd>
          {nets.length === 0
            ? (derived.device.stages.find((one) => one.id === operation.stage)?.why ??
              'for the part as a whole')
            : nets.map((one, at) => (
                <span key={one.pad}>
                  {at > 0 && ', '}
                  {one.id === '' ? (
                    <span className="m">{one.pad}</span>
                  ) : (
                    <button
                      type="button"
                      className="hover:underline"
                      onClick={() => select({ kind: 'net', id: one.id })}
                    >
                      {one.name}
                    </button>
                  )}
                </span>
              ))}
        </dd>
        <dt className="text-soft">pads</dt>
        <dd>{pads.length === 0 ? 'none is anything else by it' : <PadChanges pads={pads} />}</dd>
        <dt className="text-soft">code</dt>
        <dd>
          <CodeLines index={index} />
        </dd>
      </dl>
    </section>
  );
}

const SHOWN_PADS = 5;

function PadChanges({ pads }: { pads: StepReport['pads'] }) {
  const [all, setAll] = useState(false);
  const shown = all ? pads : pads.slice(0, SHOWN_PADS);
  return (
    <ul>
      {shown.map((one) => (
        <li key={one.pad}>
          <span className="m">{one.pad}</span> {one.net}{' '}
          <span className="text-soft">
            {one.before === one.after ? '' : `${one.before} → ${one.after}, `}
            {one.level}
          </span>
        </li>
      ))}
      {pads.length > shown.length && (
        <li>
          <button type="button" className="link" onClick={() => setAll(true)}>
            {pads.length - shown.length} more
          </button>
        </li>
      )}
    </ul>
  );
}

/** Where an operation stands in the code of every language. */
function CodeLines({ index }: { index: number }) {
  const { derived } = useDerived();
  const { showOperation } = useActions();
  const [open, setOpen] = useState(false);
  const places = open
    ? TARGETS.filter((one) => one.document !== true && whyNoCode(one, derived) === undefined).flatMap(
        (target) => {
          const file = generateFiles(target, derived).find((one) => one.operations !== undefined);
          const line = file?.operations?.[index];
          return file && line !== undefined ? [{ title: target.title, path: file.path, line }] : [];
        },
      )
    : [];
  return (
    <>
      <button type="button" className="link" onClick={() => showOperation(index)}>
        show its line
      </button>{' '}
      <button type="button" className="link" aria-expanded={open} onClick={() => setOpen(!open)}>
        {open ? 'less' : 'in every language'}
      </button>
      {open && (
        <ul>
          {places.map((one) => (
            <li key={one.title}>
              {one.title}: <span className="m">{`${one.path}:${one.line}`}</span>
            </li>
          ))}
        </ul>
      )}
    </>
  );
}

/** All operations by stage; a click goes there. */
function Operations({ store }: { store: BenchStore }) {
  const { bench } = store.recording.play;
  const { operation: next } = bench.state;
  const { operations } = bench.setup;
  const current = useRef<HTMLLIElement>(null);
  const shown = shownOperation(store);
  useEffect(() => {
    void shown;
    current.current?.scrollIntoView({ block: 'nearest' });
  }, [shown]);
  return (
    <section aria-label="Operations" className="mt-2">
      <h3 className="font-semibold">Operations</h3>
      <ol className="-mx-3.5 max-h-[42vh] overflow-auto">
        {operations.map((one, index) => {
          const isFirst = operations[index - 1]?.stage !== one.stage;
          const isShown = index === shown;
          return (
            <li
              // biome-ignore lint/suspicious/noArrayIndexKey: an operation is its place
              key={index}
              ref={isShown ? current : undefined}
            >
              {isFirst && <p className="px-3.5 pt-1 font-semibold text-soft">{one.stage}</p>}
              <button
                type="button"
                aria-current={isShown ? 'step' : undefined}
                className={`m block w-full overflow-hidden text-ellipsis whitespace-nowrap px-3.5 text-left leading-6 ${
                  isShown
                    ? 'bg-ink text-sheet'
                    : index < next
                      ? 'text-soft hover:bg-pickbg'
                      : 'hover:bg-pickbg'
                }`}
                title="Look at it; double click goes there"
                onClick={() => store.lookAt(index)}
                onDoubleClick={() => store.goTo(index + 1)}
              >
                {index + 1} {operationText(one)}
              </button>
            </li>
          );
        })}
      </ol>
      <p className="mt-1">
        <button type="button" className="button" onClick={() => store.goTo(shown + 1)}>
          Go to behind operation {shown + 1}
        </button>
      </p>
    </section>
  );
}

const SHOWN_FINDINGS = 6;

/** What is wrong on the bench, with when it began. */
function BenchFindings({ store }: { store: BenchStore }) {
  const { select } = useActions();
  const { bench } = store.recording.play;
  const { findings } = bench.state;
  const [all, setAll] = useState(false);
  if (findings.length === 0) return null;
  const shown = all ? findings : findings.slice(-SHOWN_FINDINGS);
  return (
    <section aria-label="Found on the bench" className="mt-2">
      <h3 className="font-semibold">
        Found on the bench <span className="font-normal text-soft">{findings.length}</span>
      </h3>
      <ul>
        {shown.map((one) => {
          const net = bench.setup.pads[one.pad]?.net;
          return (
            <li key={`${one.kind} ${one.pad} ${one.from}`} className="border-b border-rule py-0.5">
              <button
                type="button"
                className={`text-left hover:underline ${one.until === undefined ? 'text-err' : ''}`}
                onClick={() => {
                  store.setCursors({ a: one.from, b: one.until });
                  if (net) select({ kind: 'net', id: net.id });
                }}
              >
                {one.message.replaceAll('`', '')}
              </button>{' '}
              <span className="text-soft">
                {one.until === undefined
                  ? `since ${timeText(one.from)}`
                  : one.until === one.from
                    ? `at ${timeText(one.from)}`
                    : `from ${timeText(one.from)} to ${timeText(one.until)}`}
              </span>
            </li>
          );
        })}
      </ul>
      {findings.length > shown.length && (
        <button type="button" className="link" onClick={() => setAll(true)}>
          all {findings.length}
        </button>
      )}
    </section>
  );
}

/** What a net is at the moment. */
function NetNow({ store, net }: { store: BenchStore; net: Net }) {
  const { bench } = store.recording.play;
  const { setup, state } = bench;
  const at = setup.byNet.get(net.id);
  const pad = at === undefined ? undefined : setup.pads[at];
  if (!pad) return <p className="text-soft">{net.name} is on no pad, and not on the bench.</p>;
  const amperes = -bench.amperes(pad.stage);
  const pull = bench.amperes(pad.pull);
  const { happened, missed, pending } = state;
  return (
    <section aria-label="On the bench">
      <h2 className="text-[17px] font-semibold">{net.name}</h2>
      <dl className="my-1 grid grid-cols-[72px_1fr] gap-y-1">
        <dt className="text-soft">pad {pad.pad.id}</dt>
        <dd>{padWords(setup.device, state.states[pad.index] as never)}</dd>
        <dt className="text-soft">level</dt>
        <dd>
          {stateWords(state.codes[pad.index] as number)}, {voltsWords(state.volts[pad.index] as number)}
        </dd>
        <dt className="text-soft">current</dt>
        <dd>
          {Math.abs(amperes) < 1e-9
            ? Math.abs(pull) < 1e-9
              ? 'none'
              : `${currentText(Math.abs(pull) * 1000)} through its pull`
            : `${amperes > 0 ? 'sources' : 'sinks'} ${currentText(Math.abs(amperes) * 1000)}`}
        </dd>
        {(happened[pad.index] as number) > 0 && (
          <>
            <dt className="text-soft">interrupts</dt>
            <dd>
              {happened[pad.index]} raised, {missed[pad.index]} missed
              {pending[pad.index] ? ', one waits' : ''}
            </dd>
          </>
        )}
      </dl>
    </section>
  );
}
