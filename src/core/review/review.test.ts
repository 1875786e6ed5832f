import {
  isAbout,
  isOpen,
  type PlanComment,
  reviewOf,
  type Subject,
  signatureText,
  subjectOf,
  type Verdict,
} from './review';

const circuits = [
  { id: 'fans', name: 'Fans' },
  { id: 'panel', name: 'Panel' },
];
let clock = 0;
const verdict = (author: string, circuit: string, kind: Verdict['verdict'], fingerprint = 'f1'): Verdict => ({
  revision: 'B',
  circuit,
  verdict: kind,
  note: '',
  author,
  fingerprint,
  at: new Date(Date.UTC(2026, 10, 20, 10, clock++)).toISOString(),
});

describe('a review', () => {
  test('is open until every circuit is approved, and says by whom then', () => {
    expect(reviewOf(circuits, [])).toMatchObject({ state: 'open', signed: undefined });
    expect(reviewOf(circuits, [verdict('mk', 'fans', 'approved')])).toMatchObject({
      state: 'open',
      circuits: [{ state: 'approved' }, { state: 'open' }],
    });
    const both = reviewOf(circuits, [verdict('mk', 'fans', 'approved'), verdict('jo', 'panel', 'approved')]);
    expect(both).toMatchObject({ state: 'approved', signed: { by: ['jo', 'mk'], fingerprint: 'f1' } });
    expect(reviewOf(circuits, [verdict('mk', '', 'approved')])).toMatchObject({
      state: 'approved',
      signed: { by: ['mk'] },
    });
  });
  test('who asks for changes holds it up until the same person approves', () => {
    const asked = [
      verdict('mk', '', 'approved'),
      verdict('jo', 'fans', 'changes'),
      verdict('mk', 'fans', 'approved'),
    ];
    expect(reviewOf(circuits, asked)).toMatchObject({
      state: 'changes',
      signed: undefined,
      circuits: [{ state: 'changes' }, { state: 'approved' }],
    });
    expect(reviewOf(circuits, [...asked, verdict('jo', 'fans', 'approved')]).state).toBe('approved');
    // A later word on all of it is a word on each circuit.
    expect(reviewOf(circuits, [...asked, verdict('jo', '', 'approved')]).state).toBe('approved');
    expect(reviewOf(circuits, [verdict('mk', '', 'approved'), verdict('mk', 'panel', 'changes')]).state).toBe(
      'changes',
    );
  });
  test('a plan without circuits is reviewed as a whole', () => {
    expect(reviewOf([], []).state).toBe('open');
    expect(reviewOf([], [verdict('mk', '', 'approved')]).state).toBe('approved');
  });
  test('a sign-off is void for other content, and says so', () => {
    const { signed } = reviewOf(circuits, [verdict('mk', '', 'approved', 'aaaa')]);
    if (!signed) throw new Error('it is not signed');
    expect(signatureText('B', signed, 'aaaa')).toMatchObject({ holds: true });
    const other = signatureText('B', signed, 'bbbb');
    expect(other.holds).toBe(false);
    expect(other.text).toMatch(/signed by mk on 2026-11-20 for content aaaa; the plan is bbbb now, .* void/);
  });
});

describe('comments', () => {
  const about = (a: Subject, b: Subject): boolean => isAbout(a, b);
  test('are found at what they are about', () => {
    expect(about({ kind: 'setting', net: 'n', key: 'pull' }, { kind: 'net', net: 'n' })).toBe(true);
    expect(
      about({ kind: 'setting', net: 'n', key: 'pull' }, { kind: 'setting', net: 'n', key: 'drive' }),
    ).toBe(false);
    expect(about({ kind: 'net', net: 'n' }, { kind: 'net', net: 'm' })).toBe(false);
    expect(about({ kind: 'pad', pad: 'A1' }, { kind: 'pad', pad: 'A1' })).toBe(true);
    expect(about({ kind: 'plan' }, { kind: 'plan' })).toBe(true);
    expect(about({ kind: 'net', net: 'n' }, { kind: 'plan' })).toBe(false);
  });
  test('on a finding go along when the net moves, and not to another finding', () => {
    const before = subjectOf({ rule: 'floating-input', nets: ['b', 'a'], pads: ['A1'] });
    expect(about(before, subjectOf({ rule: 'floating-input', nets: ['a', 'b'], pads: ['B7'] }))).toBe(true);
    expect(about(before, subjectOf({ rule: 'unplaced', nets: ['a', 'b'], pads: [] }))).toBe(false);
    const free = subjectOf({ rule: 'unused', nets: [], pads: ['A1'] });
    expect(about(free, subjectOf({ rule: 'unused', nets: [], pads: ['A2'] }))).toBe(false);
  });
  test('are open until somebody resolves them; answers never are', () => {
    const comment: PlanComment = {
      id: 'c',
      subject: { kind: 'plan' },
      text: 'why?',
      author: 'mk',
      at: '',
      answers: null,
      resolvedBy: null,
      resolvedAt: null,
    };
    expect(isOpen(comment)).toBe(true);
    expect(isOpen({ ...comment, answers: 'x' })).toBe(false);
    expect(isOpen({ ...comment, resolvedBy: 'jo', resolvedAt: '2026-11-20' })).toBe(false);
  });
});
