import { append } from '@/core/base/lists';
import type { Problem } from '@/core/base/problems';
import { fail, ok, type Result } from '@/core/base/result';
import { readEdit } from '@/core/plan/file/read-edit';
import type { NewEdit } from '../edit-log';
import { parseBody } from './read-form';

const KEYS = ['editId', 'client', 'author', 'madeAgainst', 'edit'];
const LONGEST_AUTHOR = 120;

/** The bytes of a request → an edit that may be appended, or what is wrong with it. */
export function readNewEdit(body: Uint8Array): Result<NewEdit> {
  const parsed = parseBody(body);
  if (!parsed.ok) return parsed;
  const { value: sent } = parsed;
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
  if (!read.ok) append(problems, read.problems);
  if (problems.length > 0 || !read.ok) return fail(...problems);
  return ok({
    editId: editId as string,
    client: client as string,
    author: author as string,
    madeAgainst: madeAgainst as number,
    edit: read.value,
  });
}
