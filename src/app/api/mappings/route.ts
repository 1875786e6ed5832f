import type { Mapping } from '@/core/import/tables/mapping';
import { mappingForm } from '@/server/forms/forms';
import { rememberedMapping, rememberMapping } from '@/server/mappings';
import { answer, readForm, route } from '../http';

export const dynamic = 'force-dynamic';

/** What the columns of a table with the headings in `?signature=` were the last time. */
export const GET = route(async (request) => {
  const signature = new URL(request.url).searchParams.get('signature') ?? '';
  return answer({ mapping: (await rememberedMapping(signature)) ?? null });
});

export const PUT = route(async (request) => {
  const { signature, mapping } = await readForm(request, mappingForm);
  await rememberMapping(signature, mapping as Mapping);
  return answer({ mapping });
});
