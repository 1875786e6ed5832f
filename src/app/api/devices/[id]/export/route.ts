import { attachment } from '@/core/base/text/file-name';
import { correctionsText, findPart, workOnPart } from '@/server/parts';
import { notFound, refuse, route } from '../../../http';

export const dynamic = 'force-dynamic';

const FORMS = ['text', 'json', 'tables', 'svd'] as const;

/** The part as files: `?as=text`, `json`, `tables` (a zip of three files), `svd` or `corrections`. Ids are file names already. */
export const GET = route<{ id: string }>(async (request, { id }) => {
  const wanted = new URL(request.url).searchParams.get('as');
  const part = await findPart(id);
  if (!part) return notFound('part');
  const file = (ending: string, type: string, body: string | Uint8Array): Response =>
    new Response(body as BodyInit, {
      headers: { 'content-type': type, 'content-disposition': attachment(`${id}${ending}`) },
    });
  if (wanted === 'corrections') {
    const type = 'application/json; charset=utf-8';
    return file('.corrections.json', type, await correctionsText(part));
  }
  const as = FORMS.find((one) => one === wanted);
  if (!as) return refuse(400, { place: 'as', message: 'must be text, json, tables, svd or corrections' });
  const exported = await workOnPart('exportPart', part, { as });
  if (!exported.ok) return refuse(409, ...exported.problems);
  return file(exported.value.ending, exported.value.type, exported.value.body);
});
