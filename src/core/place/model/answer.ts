import type { Term, Weights } from '../../derive/candidates/terms';
import type { Package, PadId } from '../../description/types';
import type { Edit } from '../../plan/edits/edits';
import type { NetId } from '../../plan/model/types';
import type { ChoiceProblem, SearchLimits } from '../solver/problem';
import type { Requirement } from './model';
import type { Move } from './moves';

export interface PlaceOptions {
  weights?: Partial<Weights>;
  /** Nets that have a pad stay there, locked or not. */
  keep?: boolean;
  /** Nodes of the search before it gives up on proof. */
  nodes?: number;
  /** Answers already given; the next shall be another one. */
  unlike?: readonly Record<NetId, PadId>[];
  progress?: SearchLimits['progress'];
  /** Whether to look for the reason when it cannot be done; it is, unless told otherwise. */
  explain?: boolean;
  /** Packages to try when it cannot be done: the part's others, unless given. */
  packages?: readonly Package[];
}

export interface Placing {
  status: 'optimal' | 'feasible' | 'infeasible' | 'stopped';
  /** Sum of the weighted terms, and what no answer can be below. */
  objective?: number;
  bound?: number;
  /**
   * Of an optimal answer: no placement costs less at all, or none that gathers each circuit around the centre that was chosen
   * for it by a quick search. Other centres are not tried.
   */
  optimalFor?: 'all' | 'centres';
  terms?: Record<Term, number>;
  placements: Record<NetId, PadId>;
  moves: Move[];
  conflict?: Conflict;
  nodes: number;
  /** What the answer is an answer to, for a second opinion. */
  problem?: ChoiceProblem;
}

/** What cannot hold together, none of it superfluous, and what could be given up. */
export interface Conflict {
  requirements: Requirement[];
  /** One sentence about what stands against it. */
  message: string;
  suggestions: Suggestion[];
  /** Nothing smaller contradicts itself: shown, not only not found. */
  smallest: boolean;
  /** The search gave up on some question: the conflict holds, but a smaller one may be in it. */
  rough: boolean;
}

/** Something to give up; each was tried, and the rest can then be placed. */
export interface Suggestion {
  label: string;
  edit: Edit;
}
