import type { Correction } from '@/core/description/types';
import { correctionsForm } from '@/server/forms/forms';
import { storeCorrections } from '@/server/parts';
import { answer, notFound, readForm, refuse, route } from '../../../http';

/** Replaces the part's corrections. What does not go together with the part is answered with 200 and the problems. */
export const PUT = route<{ id: string }>(async (request, { id }) => {
  const { corrections, expected } = await readForm(request, correctionsForm);
  const stored = await storeCorrections(id, corrections as Correction[], expected);
  if (!stored) return notFound('part');
  if (stored.ok) return answer({ id, ...stored.value });
  const moved = stored.problems.some((one) => one.place === 'part');
  return moved ? refuse(409, ...stored.problems) : answer({ id: null, problems: stored.problems });
});
