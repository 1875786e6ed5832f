import type { Expression } from '../../description/language/expression';
import type { FormId } from './forms';
import type { Target } from './names';

/** A step of a script. Times are in nanoseconds. */
export interface Step {
  form: FormId;
  /** Line of the script, from 0, and the text of the step. */
  line: number;
  text: string;
  values: Captures;
  /** Of a repetition. */
  steps?: readonly Step[];
}

export type Captured = Target | string | number | Expression | ReadonlyMap<string, number> | readonly Step[];
export type Captures = ReadonlyMap<string, Captured>;

/** What is wrong with a script, and where: line and columns from 0. */
export interface ScriptProblem {
  line: number;
  from: number;
  to: number;
  message: string;
}

export interface Script {
  steps: readonly Step[];
  problems: readonly ScriptProblem[];
}
