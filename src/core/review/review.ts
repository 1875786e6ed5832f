import type { Finding } from '../derive/rules/types';
import type { Circuit } from '../plan/model/types';

/** What people say of a plan, and whether a revision of it is signed. */

/** What a comment is about: known by ids, so that it goes along when a net moves or is renamed. */
export type Subject =
  | { kind: 'plan' }
  | { kind: 'net'; net: string }
  | { kind: 'setting'; net: string; key: string }
  | { kind: 'pad'; pad: string }
  /** Any finding of the rule about the same nets; where it is about none, about the same pads. */
  | { kind: 'finding'; rule: string; nets: string[]; pads: string[] };

export interface PlanComment {
  id: string;
  subject: Subject;
  text: string;
  author: string;
  /** ISO 8601. */
  at: string;
  /** The comment that it answers. */
  answers: string | null;
  resolvedBy: string | null;
  resolvedAt: string | null;
}

export const subjectOf = ({ rule, nets, pads }: Pick<Finding, 'rule' | 'nets' | 'pads'>): Subject => ({
  kind: 'finding',
  rule,
  nets: [...nets].sort(),
  pads: nets.length > 0 ? [] : [...pads].sort(),
});

const same = (a: readonly string[], b: readonly string[]): boolean =>
  a.length === b.length && a.every((one, at) => one === b[at]);

/** Whether a comment is about something; those on a net's settings are about the net, too. */
export function isAbout(subject: Subject, what: Subject): boolean {
  switch (what.kind) {
    case 'plan':
      return subject.kind === 'plan';
    case 'net':
      return (subject.kind === 'net' || subject.kind === 'setting') && subject.net === what.net;
    case 'setting':
      return subject.kind === 'setting' && subject.net === what.net && subject.key === what.key;
    case 'pad':
      return subject.kind === 'pad' && subject.pad === what.pad;
    case 'finding':
      return (
        subject.kind === 'finding' &&
        subject.rule === what.rule &&
        same(subject.nets, what.nets) &&
        same(subject.pads, what.pads)
      );
  }
}

/** A comment that still asks for something: it answers none, and nobody has resolved it. */
export const isOpen = ({ answers, resolvedAt }: PlanComment): boolean =>
  answers === null && resolvedAt === null;

export const VERDICTS = ['approved', 'changes'] as const;
export type VerdictKind = (typeof VERDICTS)[number];

/** What a reviewer said of a circuit of a kept revision, or of all of it (no circuit). */
export interface Verdict {
  revision: string;
  /** Id of the circuit; empty for the whole plan. */
  circuit: string;
  verdict: VerdictKind;
  note: string;
  author: string;
  /** Of the content that was looked at. */
  fingerprint: string;
  at: string;
}

export interface CircuitReview {
  circuit: Circuit;
  /** The last word of each reviewer, on the circuit or on all of it. */
  verdicts: Verdict[];
  state: 'open' | VerdictKind;
}

export interface RevisionReview {
  circuits: CircuitReview[];
  state: 'open' | VerdictKind;
  /** Of a revision that is approved throughout: who approved it, and when the last of it was. */
  signed: SignOff | undefined;
}

/** Who signed a revision, when the last of them did, and for which content. */
export interface SignOff {
  by: string[];
  at: string;
  fingerprint: string;
}

/**
 * Where the review of a revision stands. Of each reviewer the last word counts; who asks for changes in a circuit holds it up until
 * that same person approves it. A revision is signed when every circuit is approved.
 */
export function reviewOf(circuits: readonly Circuit[], verdicts: readonly Verdict[]): RevisionReview {
  const reviews = circuits.map((circuit): CircuitReview => {
    const last = new Map<string, Verdict>();
    for (const one of verdicts)
      if (one.circuit === '' || one.circuit === circuit.id) last.set(one.author, one);
    const words = [...last.values()];
    return { circuit, verdicts: words, state: stateOf(words) };
  });
  // A plan without circuits is reviewed as a whole.
  const whole = new Map(verdicts.filter((one) => one.circuit === '').map((one) => [one.author, one]));
  const states = reviews.length > 0 ? reviews.map(({ state }) => state) : [stateOf([...whole.values()])];
  const state = states.includes('changes')
    ? 'changes'
    : states.every((one) => one === 'approved')
      ? 'approved'
      : 'open';
  const words = reviews.length > 0 ? reviews.flatMap((one) => one.verdicts) : [...whole.values()];
  const [newest] = [...words].sort((a, b) => (a.at < b.at ? 1 : -1));
  return {
    circuits: reviews,
    state,
    signed:
      state === 'approved' && newest
        ? {
            by: [...new Set(words.map(({ author }) => author))].sort(),
            at: newest.at,
            fingerprint: newest.fingerprint,
          }
        : undefined,
  };
}

const stateOf = (words: readonly Verdict[]): CircuitReview['state'] =>
  words.some((one) => one.verdict === 'changes') ? 'changes' : words.length > 0 ? 'approved' : 'open';

/** What a signature says of a plan as it is now. */
export function signatureText(
  revision: string,
  signed: SignOff,
  now: string,
): { holds: boolean; text: string } {
  const day = signed.at.slice(0, 10);
  const who = `Revision ${revision} was signed by ${signed.by.join(', ')} on ${day} for content ${signed.fingerprint}`;
  return signed.fingerprint === now
    ? { holds: true, text: `${who}; that is what the plan is.` }
    : { holds: false, text: `${who}; the plan is ${now} now, for which that sign-off is void.` };
}
