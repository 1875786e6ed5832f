import { receiveEdit } from '@/server/receive-edit';
import { answer, readBody, route } from '../../../http';

/** Appends an edit. Where Mavrek's own server runs, it answers these itself (`server/http/edits.ts`), since they are so many. */
export const POST = route<{ id: string }>(async (request, { id }) => {
  const { status, body } = await receiveEdit(id, await readBody(request));
  return answer(body, status);
});
