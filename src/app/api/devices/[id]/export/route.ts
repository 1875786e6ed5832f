import { attachment } from '@/core/base/text/file-name';
import { PART_FORMS } from '@/core/description/part-forms';
import { correctionsText, findPart, workOnPart } from '@/server/parts';
import { notFound, refuse, route } from '../../../http';

export const dynamic = 'force-dynamic';

/** The part as a file: `?as=` one of the forms; `tables` is a zip of three files. Ids are file names already. */
export const GET = route<{ id: string }>(async (request, { id }) => {
  const wanted = new URL(request.url).searchParams.get('as');
  const part = await findPart(id);
  if (!part) return notFound('part');
  const file = (ending: string, type: string, body: string | Uint8Array): Response =>
    new Response(body as BodyInit, {
      headers: { 'content-type': type, 'content-disposition': attachment(`${id}${ending}`) },
    });
  const as = PART_FORMS.find((form) => form === wanted);
  if (!as) return refuse(400, { place: 'as', message: `must be one of ${PART_FORMS.join(', ')}` });
  if (as === 'corrections') {
    const type = 'application/json; charset=utf-8';
    return file('.corrections.json', type, await correctionsText(part));
  }
  const exported = await workOnPart('exportPart', part, { as });
  if (!exported.ok) return refuse(409, ...exported.problems);
  return file(exported.value.ending, exported.value.type, exported.value.body);
});
