import type { Result } from '@/core/base/result';
import { printRecipeText, readRecipeText } from '@/core/description/part-text/text-form';
import type { RecipeSource } from '@/core/description/recipe';
import type { Pad } from '@/core/description/types';
import type { HardwareAnswers } from '@/core/import/ask/answers';
import { blankAnswers, recipeOfAnswers } from '@/core/import/ask/hardware';
import { mergeByHand } from '@/core/import/ask/merge';
import type { BuiltRecipe } from '@/core/import/attach/build';

/** How the questions and the text stand: what was answered, and the text where somebody has edited it. */
export interface HardwareState {
  answers: HardwareAnswers;
  /** The recipe as edited by hand; null where it is what the answers give. */
  text: string | null;
  /** Parts of the text by hand that the last answer replaced. */
  replaced: readonly string[];
}

/** All states that there have been, and which of them is shown. */
export interface HardwareSession {
  states: readonly HardwareState[];
  at: number;
  /** What the last change was about: going on with the same is no new step. */
  about: string;
}

export const newSession = (): HardwareSession => ({
  states: [{ answers: blankAnswers(), text: null, replaced: [] }],
  at: 0,
  about: '',
});

export const stateOf = ({ states, at }: HardwareSession): HardwareState => states[at] as HardwareState;

const MOST_STATES = 200;

function withState(session: HardwareSession, state: HardwareState, about: string): HardwareSession {
  const kept = session.states.slice(0, session.at + 1);
  // Typing on in one field is one step.
  const base = about === session.about && session.at === session.states.length - 1 && kept.length > 1;
  const states = [...(base ? kept.slice(0, -1) : kept), state].slice(-MOST_STATES);
  return { states, at: states.length - 1, about };
}

export const back = (session: HardwareSession): HardwareSession => ({
  ...session,
  at: Math.max(0, session.at - 1),
  about: '',
});
export const forth = (session: HardwareSession): HardwareSession => ({
  ...session,
  at: Math.min(session.states.length - 1, session.at + 1),
  about: '',
});

/** The session after an answer. What was edited in the text stays, unless the answer is about the very same. */
export function afterAnswer(
  session: HardwareSession,
  answers: HardwareAnswers,
  about: string,
  ports: readonly string[],
  pads: readonly Pad[],
): HardwareSession {
  const before = stateOf(session);
  const built = (of: HardwareAnswers): RecipeSource | undefined =>
    recipeOfAnswers(of, ports, pads).built?.recipe;
  let { text } = before;
  let replaced: readonly string[] = [];
  if (text !== null) {
    const [old, next] = [built(before.answers), built(answers)];
    const byHand = parsed(text);
    // A text that cannot be read, or answers that give no recipe yet: the text stays as it is.
    if (next && byHand.ok) {
      const merged = mergeByHand(old ?? {}, byHand.value, next);
      const written = printRecipeText(merged.value as RecipeSource);
      text = written === printRecipeText(next) ? null : written;
      ({ replaced } = merged);
    }
  }
  return withState(session, { answers, text, replaced }, about);
}

/** The session after the text was edited. */
export const afterText = (session: HardwareSession, text: string): HardwareSession =>
  withState(session, { answers: stateOf(session).answers, text, replaced: [] }, 'text');

/** The session with the text as the answers give it. */
export const withoutText = (session: HardwareSession): HardwareSession =>
  withState(session, { answers: stateOf(session).answers, text: null, replaced: [] }, 'text as answered');

/** The recipe that the text says, or where it cannot be read. */
export const parsed = (text: string): Result<RecipeSource> => readRecipeText('recipe.part', text);

/** The text that is shown: as edited, or as the answers give it; empty while they give none. */
export function textOf({ text }: HardwareState, built: BuiltRecipe | undefined): string {
  return text ?? (built ? printRecipeText(built.recipe) : '');
}
