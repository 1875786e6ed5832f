import { act, advance, stepOperation, switchOn } from '@/core/bench/engine/engine';
import { accessorFor, call } from '@/core/bench/engine/firmware';
import { signalsOf } from '@/core/bench/recording/signals';
import { namesIn } from '@/core/bench/script/names';
import { parseScript } from '@/core/bench/script/parse';
import { playScript } from '@/core/bench/script/run';
import { readVcd } from '@/core/bench/trace/vcd-read';
import { vcdText } from '@/core/bench/trace/vcd-write';
import type { Derived } from '@/core/derive/derive';

/** Between two looks at the clock, which take as long as a step. */
const AT_ONCE = 100;

/** The bench: how many operations, calls of the firmware and events a second; how fast a dump of traces is read and written. */
export function benchTrying(derived: Derived): void {
  const bench = switchOn(derived, { kind: 'reset' });
  const perSecond = (work: () => void): number => {
    work();
    const before = bench.state.steps;
    const began = performance.now();
    while (performance.now() - began < 1500) for (let at = 0; at < AT_ONCE; at++) work();
    return ((bench.state.steps - before) / (performance.now() - began)) * 1000;
  };
  const operations = perSecond(() => {
    bench.state.operation = 0;
    while (stepOperation(bench)) {
      // One after the other.
    }
  });
  const pairs = derived.plan.nets.flatMap(({ id }) => {
    const [set, clear] = [accessorFor(bench, 'set', [id]), accessorFor(bench, 'clear', [id])];
    return set && clear ? [{ set, clear }] : [];
  });
  const calls = perSecond(() => {
    for (const { set, clear } of pairs) {
      call(bench, set, 0, 'on');
      call(bench, clear, 0, 'off');
    }
    advance(bench, bench.state.time + 1e5);
  });
  const source = bench.setup.parts.findIndex((one) => one.attachment.kind === 'analog-source');
  act(bench, source, { verb: 'sine', value: 1.5, amplitude: 1, rateHertz: 1000 }, 'sine');
  const events = perSecond(() => advance(bench, bench.state.time + 1e8));
  const million = (value: number): string => `${(value / 1e6).toFixed(2)} million`;
  console.log(
    `bench, demo plan: ${million(operations)} operations, ${million(calls)} firmware calls, ${million(events)} events a second (aim 1 million steps)`,
  );
  benchVcd(derived);
}

const VCD_BYTES = 50e6;

function benchVcd(derived: Derived): void {
  const lines = ['repeat 20000: Fans = 5; wait 100 us; Fans = 10; wait 100 us'];
  const { bench } = playScript(derived, parseScript(lines, namesIn(derived)));
  let began = performance.now();
  const text = vcdText(signalsOf(bench), bench.state.time, 'bench', '2026-01-01');
  const written = performance.now() - began;
  // The same changes again and again, later each time, until the file is large.
  const head = text.slice(0, text.indexOf('$enddefinitions $end\n') + '$enddefinitions $end\n'.length);
  const body = text.slice(head.length).replaceAll(/^#\d+\n/gm, '');
  const pieces = [head];
  let size = head.length;
  for (let time = 0; size < VCD_BYTES; time += 1000) {
    const piece = `#${time}\n${body}`;
    pieces.push(piece);
    size += piece.length;
  }
  const bytes = new TextEncoder().encode(pieces.join(''));
  began = performance.now();
  const work = readVcd(bytes);
  let step = work.next();
  while (!step.done) step = work.next();
  const read = performance.now() - began;
  console.log(
    `VCD: ${(text.length / 1e6).toFixed(1)} MB written in ${written.toFixed(0)} ms, ${(bytes.length / 1e6).toFixed(0)} MB read in ${(read / 1000).toFixed(2)} s`,
  );
}
