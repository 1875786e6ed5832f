import { LIMITS } from '@/core/base/limits';
import { boundProblems } from '@/core/base/problems';
import { appendEdit } from './edit-log';
import { readNewEdit } from './forms/new-edit';
import { isSmall } from './forms/read-form';
import { work } from './work/pool';

/** What is answered to whoever sends an edit. */
export interface EditAnswer {
  status: number;
  body: object;
}

/** Edits of more values than this are read in a worker thread: about the batch from which on one is applied there, too. */
const MOST_VALUES_HERE = 1000;

/**
 * Appends an edit that came from outside. `status` in the answer is "saved", or "refused" when it does not apply because the plan
 * has moved on; both bring the edits that the sender had not seen.
 */
export async function receiveEdit(planId: string, body: Uint8Array): Promise<EditAnswer> {
  const entry = isSmall(body, MOST_VALUES_HERE) ? readNewEdit(body) : await work('readNewEdit', { body });
  if (!entry.ok)
    return { status: 400, body: { problems: boundProblems(entry.problems, LIMITS.formProblems) } };
  const result = await appendEdit(planId, entry.value);
  if (result.status === 'gone')
    return { status: 404, body: { problems: [{ place: 'plan', message: 'is not there' }] } };
  return { status: 200, body: result };
}
