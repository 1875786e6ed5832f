import { resolveForm } from '@/server/forms/forms';
import { resolveComment } from '@/server/review';
import { answer, notFound, readForm, route } from '../../../../http';

/** Resolves a comment, or opens it again. */
export const PATCH = route<{ id: string; comment: string }>(async (request, { id, comment }) => {
  const changed = await resolveComment(id, comment, await readForm(request, resolveForm));
  return changed ? answer({ comment: changed }) : notFound('comment');
});
