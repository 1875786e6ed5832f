import type { Problem } from '@/core/base/problems';
import { fail, ok, type Result } from '@/core/base/result';
import { readEdit } from '@/core/plan/file/read-edit';
import { appendEdit, type NewEdit } from './edit-log';

/** What is answered to whoever sends an edit. */
export interface EditAnswer {
  status: number;
  body: object;
}

/**
 * Appends an edit that came from outside. `status` in the answer is "saved", or "refused" when it does not apply because the plan
 * has moved on; both bring the edits that the sender had not seen.
 */
export async function receiveEdit(planId: string, sent: unknown): Promise<EditAnswer> {
  const entry = readNewEdit(sent);
  if (!entry.ok) return { status: 400, body: { problems: entry.problems } };
  const result = await appendEdit(planId, entry.value);
  if (result.status === 'gone')
    return { status: 404, body: { problems: [{ place: 'plan', message: 'is not there' }] } };
  return { status: 200, body: result };
}

const KEYS = ['editId', 'client', 'author', 'madeAgainst', 'edit'];
const LONGEST_AUTHOR = 120;

function readNewEdit(sent: unknown): Result<NewEdit> {
  if (typeof sent !== 'object' || sent === null || Array.isArray(sent))
    return fail({ place: 'request', message: 'must be an object' });
  const { editId, client, author = '', madeAgainst, edit } = sent as Record<string, unknown>;
  const problems: Problem[] = Object.keys(sent)
    .filter((key) => !KEYS.includes(key))
    .map((key) => ({ place: 'request', message: `has an unknown key "${key.slice(0, 80)}"` }));
  for (const [place, id] of Object.entries({ editId, client }))
    if (typeof id !== 'string' || id === '' || id.length > 80)
      problems.push({ place, message: 'must be a text of 1 to 80 characters' });
  if (!Number.isSafeInteger(madeAgainst) || (madeAgainst as number) < 0)
    problems.push({ place: 'madeAgainst', message: 'must be a whole number, 0 or more' });
  if (typeof author !== 'string' || author.length > LONGEST_AUTHOR)
    problems.push({ place: 'author', message: `must be a text of at most ${LONGEST_AUTHOR} characters` });
  const read = readEdit(edit);
  if (!read.ok) problems.push(...read.problems);
  if (problems.length > 0 || !read.ok) return fail(...problems);
  return ok({
    editId: editId as string,
    client: client as string,
    author: author as string,
    madeAgainst: madeAgainst as number,
    edit: read.value,
  });
}
