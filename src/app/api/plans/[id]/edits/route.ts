import { editValidator } from '@/core/formats/schemas';
import type { Edit } from '@/core/plan/edit';
import { appendEdit } from '@/server/edit-log';
import { editForm } from '../../../forms';
import { answer, notFound, readForm, refuse, route } from '../../../http';

/**
 * Appends an edit. `status` is "saved", or "refused" when it does not apply because the plan has moved on; both bring the edits
 * the sender had not seen.
 */
export const POST = route<{ id: string }>(async (request, { id }) => {
  const { editId, client, madeAgainst, edit } = await readForm(request, editForm);
  const validate = editValidator();
  if (!validate(edit)) {
    const first = validate.errors?.find((error) => !['oneOf', 'const'].includes(error.keyword));
    return refuse(400, {
      place: `edit${first?.instancePath ?? ''}`,
      message: first?.message ?? 'is not a known edit',
    });
  }
  const result = await appendEdit(id, { editId, client, madeAgainst, edit: edit as unknown as Edit });
  if (result.status === 'gone') return notFound('plan');
  return answer(result);
});
