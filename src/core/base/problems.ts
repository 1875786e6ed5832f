import { LIMITS } from './limits';

/**
 * Problems as they are found. The first ones are kept and the others counted, so that a hostile file costs no memory and its
 * list stays one that a person reads.
 */
export interface Problems {
  push(...problems: Problem[]): void;
  /** How many were found, kept or not. */
  readonly length: number;
  /** True when further ones would only be counted: who can stop looking may do so. */
  readonly full: boolean;
  /** The kept ones, and in the last place how many more there are. */
  list(): Problem[];
}

export function collectProblems(most: number = LIMITS.problems): Problems {
  const kept: Problem[] = [];
  // One mistake in an expression shows at every port and pad that it is worked out for, in the same words: it is told once.
  const pushed = new Set<string>();
  let found = 0;
  return {
    push(...problems) {
      for (const problem of problems) {
        const key = `${problem.place}\0${problem.message}`;
        if (pushed.has(key)) continue;
        if (pushed.size < most) pushed.add(key);
        found++;
        if (kept.length < most) kept.push(problem);
      }
    },
    get length() {
      return found;
    },
    get full() {
      return found >= most;
    },
    list: () => withRest(kept, found),
  };
}

/** One mistake that shows at every instance, with its name in the message each time, is told once: of those pushed here the first. */
export function onlyFirst(problems: Problems): Problems {
  let reported = false;
  return {
    push(first, ..._others) {
      if (reported || !first) return;
      reported = true;
      problems.push(first);
    },
    get length() {
      return problems.length;
    },
    get full() {
      return problems.full;
    },
    list: () => problems.list(),
  };
}

/** A list cut to its first `most`, with a last line that says how many more there are; none longer than people read. */
export function boundProblems(problems: readonly Problem[], most: number = LIMITS.problems): Problem[] {
  const kept = problems.slice(0, most).map((problem) => ({
    ...problem,
    place: clipped(problem.place),
    message: clipped(problem.message),
  }));
  return withRest(kept, problems.length);
}

/** A text that quotes what somebody sent is as long as they like; the answer is not. */
const clipped = (text: string): string =>
  text.length <= LIMITS.problemCharacters ? text : `${text.slice(0, LIMITS.problemCharacters)}…`;

function withRest(kept: readonly Problem[], found: number): Problem[] {
  if (found <= kept.length) return [...kept];
  const place = kept.at(-1)?.place.split(/[:,]/)[0] ?? '';
  return [...kept, { place, message: `… and ${found - kept.length} more` }];
}

/**
 * Errors a user can cause are values. `place` names where in the user's input the problem sits
 * ("functions.csv, row 41, column F7" or "plan.json:12:5"), so that a message can be acted on.
 */
export interface Problem {
  place: string;
  message: string;
}

/** A place in a file, where a problem names one: `plan.json:12:5`. Lines and columns count from 1. */
export interface FilePlace {
  file: string;
  line: number;
  column: number;
}

export function filePlace(place: string): FilePlace | undefined {
  const match = /^(.+?):(\d+):(\d+)(?:,|$)/.exec(place);
  return match ? { file: match[1] as string, line: Number(match[2]), column: Number(match[3]) } : undefined;
}
