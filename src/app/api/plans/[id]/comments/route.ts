import type { Subject } from '@/core/review/review';
import { commentForm } from '@/server/forms/forms';
import { planIsThere } from '@/server/plans';
import { addComment, listComments } from '@/server/review';
import { answer, notFound, readForm, refuse, route } from '../../../http';

export const dynamic = 'force-dynamic';

export const GET = route<{ id: string }>(async (_request, { id }) =>
  (await planIsThere(id)) ? answer({ comments: await listComments(id) }) : notFound('plan'),
);

export const POST = route<{ id: string }>(async (request, { id }) => {
  const { subject, text, author, answers } = await readForm(request, commentForm);
  const added = await addComment(id, {
    subject: subject as Subject,
    text: text.trim(),
    author: author.trim(),
    answers: answers ?? null,
  });
  if (!added) return notFound('plan');
  return added.ok ? answer({ comment: added.value }, 201) : refuse(409, ...added.problems);
});
