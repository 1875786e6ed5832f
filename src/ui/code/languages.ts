import type { Target } from '@/core/output/code/types';

/** The grammar by which a file is highlighted: a header beside assembly is C. */
export const languageOf = (target: Pick<Target, 'language'>, path: string): string =>
  path.endsWith('.h') ? 'c' : target.language;
