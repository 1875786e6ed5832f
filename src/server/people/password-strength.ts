import { ZxcvbnFactory } from '@zxcvbn-ts/core';
import * as common from '@zxcvbn-ts/language-common';
import * as english from '@zxcvbn-ts/language-en';
import { fail, ok, type Result } from '@/core/base/result';

/**
 * How soon a password would be guessed by whoever tries lists of passwords and words, names, dates, rows of keys and digits, and what
 * is known of its owner: an estimate of the number of tries by the package's matching. It takes up to some tenths of a second for a
 * long text, and is asked in a worker thread.
 */

/** Of 0 to 4: at least some 10^8 tries, which argon2id makes a matter of decades. */
const LEAST_SCORE = 3;
/** Longer ones are judged by their beginning. */
const JUDGED_CHARACTERS = 64;

let made: ZxcvbnFactory | undefined;
const estimator = (): ZxcvbnFactory => {
  made ??= new ZxcvbnFactory({
    dictionary: { ...common.dictionary, ...english.dictionary },
    graphs: common.adjacencyGraphs,
    translations: english.translations,
  });
  return made;
};

/** Words of the owner's that are no secret: name, address and their parts. */
const knownOf = ({ name, email }: { name: string; email: string }): string[] =>
  [name, email, ...`${name} ${email}`.split(/[^\p{L}\p{N}]+/u), 'mavrek', 'orchard', 'firmware'].filter(
    (word) => word.length >= 3,
  );

export function judgePassword(password: string, owner: { name: string; email: string }): Result<null> {
  const { score, feedback } = estimator().check(password.slice(0, JUDGED_CHARACTERS), knownOf(owner));
  if (score >= LEAST_SCORE) return ok(null);
  const why = feedback.warning
    ? `: ${feedback.warning.replace(/\.$/, '').replace(/^[A-Z]/, (first) => first.toLowerCase())}`
    : '';
  return fail({
    place: 'password',
    message: `would soon be guessed${why}; take several words that do not belong together`,
  });
}
