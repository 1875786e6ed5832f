import { readEdit } from '@/core/formats/read-edit';
import { appendEdit } from '@/server/edit-log';
import { editForm } from '../../../forms';
import { answer, notFound, readForm, refuse, route } from '../../../http';

/**
 * Appends an edit. `status` is "saved", or "refused" when it does not apply because the plan has moved on; both bring the edits
 * the sender had not seen.
 */
export const POST = route<{ id: string }>(async (request, { id }) => {
  const { editId, client, madeAgainst, edit } = await readForm(request, editForm);
  const read = readEdit(edit);
  if (!read.ok) return refuse(400, ...read.problems);
  const result = await appendEdit(id, { editId, client, madeAgainst, edit: read.value });
  if (result.status === 'gone') return notFound('plan');
  return answer(result);
});
