import { receiveEdit } from '@/server/receive-edit';
import { answer, readJson, route } from '../../../http';

/** Appends an edit. Where Mavrek's own server runs, it answers these itself (`server/http/edits.ts`), since they are so many. */
export const POST = route<{ id: string }>(async (request, { id }) => {
  const { status, body } = await receiveEdit(id, await readJson(request));
  return answer(body, status);
});
