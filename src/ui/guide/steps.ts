import type { Derived } from '@/core/derive/derive';
import type { ViewId } from '../workspace/selection';

/** What the guide looks at to see whether a step is done. */
export interface GuideState {
  derived: Pick<Derived, 'plan' | 'counts' | 'findings'>;
  /** Views that have been opened since the guide began. */
  seen: ReadonlySet<ViewId>;
}

export interface GuideStep {
  id: string;
  title: string;
  /** What to do, in a sentence or two. */
  text: string;
  /** Where it is done. */
  view?: ViewId;
  /** What stands in the page for it, to be pointed at by the focus. */
  focus?: string;
  /** The bar can do it for whoever would rather watch. */
  does?: 'type nets' | 'place';
  done(state: GuideState): boolean;
}

/** The nets that the guide types: they leave one thing to be set, and one to be found. */
export const GUIDE_NETS = [
  'fans: fan_1 fan_2 out low',
  'panel: lamp out low · service_btn in low',
  'mast: uart tx rx',
];

const isAsked = (key: string): boolean => key !== 'active';

/** From a part to code, on the way that a plan usually goes. */
export const GUIDE: readonly GuideStep[] = [
  {
    id: 'part',
    title: 'The part',
    text: 'Each row is a pin of the package, with its pad and what is on it. A plan can move to another package or part later (click the part’s name in the head).',
    view: 'package',
    done: ({ seen }) => seen.has('package'),
  },
  {
    id: 'nets',
    title: 'What the board needs',
    text: 'Type nets at the lower left (A), a circuit a line: fans: fan_1 fan_2 out low. A peripheral brings its lines: mast: uart tx rx.',
    focus: '#add-nets',
    does: 'type nets',
    done: ({ derived }) => derived.plan.nets.length >= 3,
  },
  {
    id: 'place',
    title: 'A pad for each',
    text: 'Select a net: pads that can carry it step forward, 1 to 9 take one. Or let all be placed at once (Shift P), look, and apply (Enter).',
    view: 'package',
    does: 'place',
    done: ({ derived: { plan } }) => plan.nets.length > 0 && plan.nets.every((net) => net.placement),
  },
  {
    id: 'settings',
    title: 'Settings',
    text: 'Select a net and say at the right (E) what its pad is: pull, drive, how it starts. Only what the pad has is offered. Give one net something.',
    focus: '#net-settings [role=radio][tabindex="0"], #net-settings select',
    done: ({ derived }) => derived.plan.nets.some(({ settings }) => Object.keys(settings).some(isAsked)),
  },
  {
    id: 'finding',
    title: 'Findings',
    text: 'What is wrong stands at the bottom, with remedies underlined (X goes to the first). Resolve or waive them until none is left.',
    focus: '[data-remedies] button',
    done: ({ derived: { counts, plan } }) =>
      plan.nets.some((net) => net.placement) && counts.error === 0 && counts.warning === 0,
  },
  {
    id: 'registers',
    title: 'Registers',
    text: 'Every bit that the plan decides, with the pad it is of (R). Click one.',
    view: 'registers',
    done: ({ seen }) => seen.has('registers'),
  },
  {
    id: 'bench',
    title: 'The bench',
    text: 'Try it before there is a board (T): Space runs the initialisation, then click a button or an output, or type a step (:).',
    view: 'bench',
    done: ({ seen }) => seen.has('bench'),
  },
  {
    id: 'code',
    title: 'Code',
    text: 'The proven code, in several languages (C). Take it with Shift D.',
    view: 'code',
    done: ({ seen }) => seen.has('code'),
  },
];

/** The first step that is not done, from one on; the number of steps when all are. */
export function nextStep(state: GuideState, from = 0): number {
  for (let at = from; at < GUIDE.length; at++) if (!GUIDE[at]?.done(state)) return at;
  return GUIDE.length;
}

/** How the guide of a plan stands, as the browser keeps it. */
export interface GuideKept {
  on: boolean;
  step: number;
  seen: readonly ViewId[];
}

const keyOf = (planId: string): string => `mavrek:guide:${planId}`;

/** Reads what is kept; anything else than that is as if there were nothing. */
export function readGuide(planId: string, storage: Pick<Storage, 'getItem'>): GuideKept | undefined {
  try {
    const kept: unknown = JSON.parse(storage.getItem(keyOf(planId)) ?? 'null');
    if (typeof kept !== 'object' || kept === null) return undefined;
    const { on, step, seen } = kept as Partial<GuideKept>;
    if (typeof on !== 'boolean' || typeof step !== 'number' || !Array.isArray(seen)) return undefined;
    return { on, step: Math.max(0, Math.min(GUIDE.length, Math.trunc(step) || 0)), seen };
  } catch {
    return undefined;
  }
}

export const keepGuide = (planId: string, kept: GuideKept, storage: Pick<Storage, 'setItem'>): void =>
  storage.setItem(keyOf(planId), JSON.stringify(kept));
