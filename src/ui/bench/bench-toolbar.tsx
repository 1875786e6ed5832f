'use client';

import { Popover } from 'radix-ui';
import { type ReactNode, useState } from 'react';
import { formatProblems } from '@/core/base/result';
import { nameText } from '@/core/bench/script/names';
import { timeText } from '@/core/bench/script/time-text';
import { fullMask } from '@/core/device/registers/types';
import { readDump } from '@/core/read-back/dump';
import { Segments } from '../parts/segments';
import { useDerived, useSelection } from '../workspace/context';
import { type BenchStore, useBenchVersion } from './bench-store';
import { BreakIt } from './break-it';

/** Steps, runs, goes back, and says what it starts from. */
export function BenchToolbar({ store }: { store: BenchStore }) {
  useBenchVersion(store);
  const { bench } = store.recording.play;
  const { setup, state } = bench;
  const count = setup.operations.length;
  const over = store.isOver;
  return (
    <div
      role="toolbar"
      aria-label="Bench"
      className="flex flex-wrap items-center gap-x-2 gap-y-1 border-b border-ink px-3.5 py-1.5"
    >
      <Key title="Begin anew" keys="0" onClick={() => store.restart()}>
        ↺<span className="sr-only">Begin anew</span>
      </Key>
      <Key title="Take the last step back" keys="," disabled={!store.canGoBack} onClick={() => store.back()}>
        back
      </Key>
      <Key title="Do one operation" keys="." disabled={over} onClick={() => store.step()}>
        step
      </Key>
      <Key title="Do the operations of one stage" keys=">" disabled={over} onClick={() => store.stepStage()}>
        stage
      </Key>
      <Breakpoints store={store} over={over} />
      <Key
        title={
          !over
            ? 'Do all operations that are left'
            : store.running
              ? 'Let time stand still'
              : 'Let time run as it does'
        }
        keys="space"
        strong
        onClick={() => store.runOrPause()}
      >
        {!over ? 'run' : store.running ? 'pause' : 'run time'}
      </Key>
      <span className="m whitespace-nowrap" data-testid="bench-at">
        {state.operation} of {count} · {state.machine.cycle} cycles · {timeText(state.time)}
      </span>
      <span className="ml-auto flex items-center gap-2">
        <Start store={store} />
        <BreakIt store={store} />
      </span>
    </div>
  );
}

interface KeyProps {
  title: string;
  keys: string;
  disabled?: boolean;
  strong?: boolean;
  onClick: () => void;
  children: ReactNode;
}

function Key({ title, keys, disabled = false, strong = false, onClick, children }: KeyProps) {
  return (
    <button
      type="button"
      className={`button ${strong ? 'button-strong' : ''}`}
      title={`${title} (${keys})`}
      disabled={disabled}
      onClick={onClick}
    >
      {children} <kbd className="kbd">{keys}</kbd>
    </button>
  );
}

/** Runs to where something happens: a net, a register's bits, a stage. */
function Breakpoints({ store, over }: { store: BenchStore; over: boolean }) {
  const { selectedNet, selectedPad, selection } = useSelection();
  const { derived } = useDerived();
  const stages = [...new Set(derived.lowered.operations.map((one) => one.stage))];
  const [register, low] = selection?.kind === 'bits' ? selection.id.split(':') : [];
  const known = register === undefined ? undefined : derived.device.registers.byName.get(register);
  const mask = low === undefined ? fullMask(known?.bits ?? 32) : (1 << Number(low)) >>> 0;
  return (
    <select
      aria-label="Run to"
      className="max-w-40 py-0.5"
      disabled={over}
      value=""
      onChange={(event) => {
        const { value } = event.target;
        if (value === 'net' && selectedNet) store.runTo({ kind: 'net', net: selectedNet.id });
        else if (value === 'pad' && selectedPad !== undefined) store.runTo({ kind: 'pad', pad: selectedPad });
        else if (value === 'bits' && register !== undefined)
          store.runTo({ kind: 'register', register, mask });
        else if (value.startsWith('stage ')) store.runTo({ kind: 'stage', stage: value.slice(6) });
        else if (value.startsWith('register '))
          store.runTo({ kind: 'register', register: value.slice(9), mask: 0xffffffff });
      }}
    >
      <option value="" disabled>
        run to …
      </option>
      {selectedNet ? (
        <option value="net">the first change of {selectedNet.name}</option>
      ) : (
        selectedPad !== undefined && <option value="pad">the first change of pad {selectedPad}</option>
      )}
      {known && <option value="bits">the first change of {selection?.id}</option>}
      <optgroup label="stage">
        {stages.map((one) => (
          <option key={one} value={`stage ${one}`}>
            {one}
          </option>
        ))}
      </optgroup>
      <optgroup label="first change of a register">
        {derived.lowered.image.map(({ register: one }) => (
          <option key={one.name} value={`register ${one.name}`}>
            {one.name}
          </option>
        ))}
      </optgroup>
    </select>
  );
}

const STARTS = [
  { value: 'reset', label: 'reset' },
  { value: 'dump', label: 'dump' },
  { value: 'random', label: 'random' },
  { value: 'any', label: 'any state' },
] as const;

/** What the chip is before the first operation. */
function Start({ store }: { store: BenchStore }) {
  const { derived } = useDerived();
  const { start } = store.recording;
  const [asking, setAsking] = useState(false);
  const value =
    start === undefined
      ? 'reset'
      : start.includes('random')
        ? 'random'
        : start.includes('any state')
          ? 'any'
          : start.includes('trial')
            ? 'trial'
            : 'dump';
  const trials = derived.plan.trials ?? [];
  function choose(next: string) {
    if (next === 'dump') setAsking(true);
    else if (next === 'random') store.restartFrom(`start from random ${(store.version * 7919 + 1) % 65_536}`);
    else store.restartFrom(next === 'any' ? 'start from any state' : undefined);
  }
  return (
    <Popover.Root open={asking} onOpenChange={setAsking}>
      <Popover.Anchor asChild>
        <span className="flex items-center gap-1.5">
          <span className="whitespace-nowrap text-soft">start from</span>
          <Segments label="Start from" value={value} choices={STARTS} onChange={choose} />
          {trials.length > 0 && (
            <select
              aria-label="Start after a trial"
              className="max-w-28 py-0.5"
              value={value === 'trial' ? start : ''}
              onChange={(event) => store.restartFrom(event.target.value)}
            >
              <option value="" disabled>
                after a trial
              </option>
              {trials.map((one) => (
                <option key={one.id} value={`start from trial {${one.id}}`}>
                  {one.name}
                </option>
              ))}
            </select>
          )}
        </span>
      </Popover.Anchor>
      <Popover.Portal>
        <Popover.Content
          align="end"
          sideOffset={6}
          className="z-30 w-96 border border-ink bg-sheet p-3 shadow-sm"
        >
          <DumpForm store={store} onDone={() => setAsking(false)} />
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

function DumpForm({ store, onDone }: { store: BenchStore; onDone: () => void }) {
  const { derived } = useDerived();
  const [text, setText] = useState('');
  const [said, setSaid] = useState<string | null>(null);
  function take() {
    const dump = readDump(derived.device, text);
    if (!dump.ok) {
      setSaid(formatProblems(dump.problems));
      return;
    }
    const values = [...dump.value.values].filter(([register]) => register.storage);
    if (values.length === 0) {
      setSaid('no register that holds anything is in it');
      return;
    }
    const line = values
      .map(([register, value]) => `${nameText(register.name)} = 0x${value.toString(16)}`)
      .join(', ');
    store.restartFrom(`start from registers ${line}`);
    onDone();
  }
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        take();
      }}
    >
      <label className="block font-semibold" htmlFor="bench-dump">
        Registers as something before left them
      </label>
      <p className="mb-1.5 text-soft">
        Values by name, a memory dump, Intel HEX: as a debugger prints them. What is not in it is as out of
        reset.
      </p>
      <textarea
        id="bench-dump"
        rows={6}
        className="m w-full"
        spellCheck={false}
        value={text}
        onChange={(event) => setText(event.target.value)}
      />
      {said && (
        <p role="alert" className="text-err">
          {said}
        </p>
      )}
      <button type="submit" className="button button-strong mt-1.5" disabled={text.trim() === ''}>
        Start from this
      </button>
    </form>
  );
}
