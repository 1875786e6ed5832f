/**
 * Proposes what a plan should expect so that a fault is noticed. What nets are at the end of each trial, and what they ever were, is
 * compared with and without the fault; where nothing of that differs, the nets that the fault is about are tried in turn with a short
 * script each. Every proposal has been played: it passes without the fault and fails with it.
 */
import type { Derived } from '../../derive/derive';
import type { Trial } from '../../plan/model/types';
import type { BenchPad } from '../engine/bench-pad';
import type { Board, SetupOptions } from '../engine/setup';
import type { Bench } from '../engine/sync';
import { isNow, STATE_WORDS, type StateWord, wordsFor, wordsSince } from '../script/conditions';
import { type Names, namesIn } from '../script/names';
import { playTrial, runTrial } from '../trials/run-trial';

export interface Proposal {
  /** The trial at whose end the lines stand; without it they are a trial of their own. */
  trial?: string;
  /** With nets by their ids, as plans keep them. */
  lines: string[];
}

/** What can be seen of a play at its end. */
interface Outcome {
  now: ReadonlyMap<string, ReadonlySet<StateWord>>;
  ever: ReadonlyMap<string, ReadonlySet<StateWord>>;
  findings: ReadonlySet<string>;
}

/** A play of the initialisation alone. */
const START_UP: Trial = { id: 'start-up', name: 'start-up', lines: ['initialise'] };

/** Kinds of findings that a script can rule out by name. */
const NAMED_FINDINGS = ['contention', 'over-current', 'over-voltage', 'floating'];

export class Proposer {
  private readonly names: Names;
  private readonly plays: readonly { trial: Trial; isNew: boolean; outcome: Outcome }[];

  /** `trials` are those that pass. */
  constructor(
    private readonly derived: Derived,
    trials: readonly Trial[],
    private readonly board: Board,
  ) {
    this.names = namesIn(derived);
    this.plays = [...trials.map((trial) => ({ trial, isNew: false })), { trial: START_UP, isNew: true }].map(
      (each) => ({ ...each, outcome: this.outcomeOf(each.trial, { board }) }),
    );
  }

  /** `options`: the bench with the fault. `pads`: what the fault is about. Undefined when nothing that was tried sees it. */
  propose(options: SetupOptions, pads: readonly string[]): Proposal | undefined {
    const near = new Set(pads.flatMap((pad) => this.derived.byPad.get(pad)?.map(({ net }) => net.id) ?? []));
    const pairs = this.plays.map((play) => ({ ...play, faulty: this.outcomeOf(play.trial, options) }));
    return (
      this.firstThatNotices(pairs, options, ({ outcome, faulty }) => linesAtEnd(outcome, faulty, near)) ??
      [...this.probes(near)].map((lines) => ({ lines })).find((probe) => this.notices(probe, options)) ??
      this.firstThatNotices(pairs, options, ({ outcome, faulty }) => linesOfWhole(outcome, faulty, near))
    );
  }

  private firstThatNotices<Play extends { trial: Trial; isNew: boolean }>(
    plays: readonly Play[],
    options: SetupOptions,
    linesFor: (play: Play) => readonly string[],
  ): Proposal | undefined {
    for (const play of plays)
      for (const line of linesFor(play)) {
        const proposal = play.isNew ? { lines: [line] } : { trial: play.trial.id, lines: [line] };
        if (this.notices(proposal, options)) return proposal;
      }
    return undefined;
  }

  /** Passes without the fault, fails with it. */
  private notices({ trial, lines }: Proposal, options: SetupOptions): boolean {
    const before = this.plays.find((play) => play.trial.id === trial)?.trial.lines ?? [];
    const proposed = { id: 'proposed', name: 'proposed', lines: [...before, ...lines] };
    const plain = runTrial(this.derived, proposed, { board: this.board });
    return plain.passed && !runTrial(this.derived, proposed, options).passed;
  }

  /** Short scripts that show whether a net does what it is for. */
  private *probes(nets: ReadonlySet<string>): Generator<string[]> {
    for (const id of nets) {
      const net = `{${id}}`;
      const sorts = this.names.sorts.get(id);
      const act = sorts?.has('button') ? `press ${net}` : `${net} on`;
      if (sorts?.has('interrupt')) yield [act, `expect interrupt ${net} within 100 ms`];
      for (const to of ['on', 'off', 'high', 'low'] as const) yield [`${net} ${to}`, `expect ${net} ${to}`];
      yield [act, 'wait 100 ms', `expect ${net} reads on`];
    }
  }

  private outcomeOf(trial: Trial, options: SetupOptions): Outcome {
    const { bench } = playTrial(this.derived, trial, options).play;
    return {
      now: wordsByNet(bench, (pad) =>
        wordsFor(isNow(bench, pad, bench.state.codes[pad.index] as number, bench.state.volts)),
      ),
      ever: wordsByNet(bench, (pad) => wordsSince(bench, pad)),
      findings: new Set(bench.state.findings.map(({ kind }) => kind)),
    };
  }
}

function wordsByNet(
  { setup }: Bench,
  wordsOf: (pad: BenchPad) => Set<StateWord> | undefined,
): Map<string, Set<StateWord>> {
  return new Map(
    [...setup.byNet].flatMap(([net, at]): [string, Set<StateWord>][] => {
      const pad = setup.pads[at];
      const words = pad && wordsOf(pad);
      return words ? [[net, words]] : [];
    }),
  );
}

/** Nets of an outcome, those that a fault is about first. */
const netsOf = ({ now }: Outcome, near: ReadonlySet<string>): string[] =>
  [...now.keys()].sort((a, b) => Number(near.has(b)) - Number(near.has(a)));

/** What is true at the end of a play without the fault and not with it. */
function linesAtEnd(whole: Outcome, faulty: Outcome, near: ReadonlySet<string>): string[] {
  const lines = netsOf(whole, near).flatMap((net) =>
    STATE_WORDS.filter((word) => whole.now.get(net)?.has(word) && !faulty.now.get(net)?.has(word)).map(
      (word) => `expect {${net}} ${word}`,
    ),
  );
  const findings = [...faulty.findings].filter((kind) => !whole.findings.has(kind));
  const ruledOut = findings.map((kind) =>
    NAMED_FINDINGS.includes(kind) ? `expect no ${kind}` : 'expect no findings',
  );
  return [...lines.slice(0, MOST_TRIED), ...ruledOut];
}

/** What nets are at some time with the fault and never without it. */
const linesOfWhole = (whole: Outcome, faulty: Outcome, near: ReadonlySet<string>): string[] =>
  netsOf(whole, near)
    .flatMap((net) => {
      const [words, faultyWords] = [whole.ever.get(net), faulty.ever.get(net)];
      if (!words || !faultyWords) return [];
      return STATE_WORDS.filter((word) => !words.has(word) && faultyWords.has(word)).map(
        (word) => `expect {${net}} ${word} never`,
      );
    })
    .slice(0, MOST_TRIED);

/** Of each kind of line so many are played before it is given up. */
const MOST_TRIED = 4;
