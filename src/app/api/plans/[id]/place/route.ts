import { newId } from '@/core/base/text/new-id';
import { appendEdit } from '@/server/edit-log';
import { placeForm } from '@/server/forms/forms';
import { workOnPart } from '@/server/parts';
import { planOnPart } from '@/server/plan-on-part';
import { answer, notFound, readForm, refuse, route } from '../../../http';

/** Places what has no pad, or says which demands contradict each other; with `apply` what was found is stored as an edit. */
export const POST = route<{ id: string }>(async (request, { id }) => {
  const { keep, apply, author } = await readForm(request, placeForm);
  const current = await planOnPart(id);
  if (!current) return notFound('plan');
  const placed = await workOnPart('place', current.part, { plan: current.plan, keep: keep === true });
  if (!placed.ok) return refuse(409, ...placed.problems);
  const { edit, report } = placed.value;
  if (apply !== true || !edit) return answer(report);
  const stored = await appendEdit(id, {
    editId: newId(),
    client: 'interface',
    author: author ?? '',
    madeAgainst: current.seq,
    edit,
  });
  if (stored.status === 'gone') return notFound('plan');
  return stored.status === 'saved' ? answer({ ...report, seq: stored.seq }) : refuse(409, ...stored.problems);
});
