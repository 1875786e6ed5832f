import { attachment } from '@/core/base/text/file-name';
import { tagOf } from '@/core/plan/summary';
import { workOnPart } from '@/server/parts';
import { momentIn, planOnPart } from '@/server/plan-on-part';
import { countNamesakes } from '@/server/plans';
import type { ScheduleForm } from '@/server/work/jobs';
import { notFound, refuse, route } from '../../../http';

export const dynamic = 'force-dynamic';

const TYPES: Record<ScheduleForm, string> = {
  csv: 'text/csv; charset=utf-8',
  md: 'text/markdown; charset=utf-8',
  svg: 'image/svg+xml; charset=utf-8',
};

/** The pin schedule as a table or as Markdown, or the package as a drawing. */
export const GET = route<{ id: string }>(async (request, { id }) => {
  const as = new URL(request.url).searchParams.get('as') ?? 'csv';
  if (!Object.hasOwn(TYPES, as))
    return refuse(400, { place: 'as', message: `must be ${Object.keys(TYPES).join(', ')}` });
  const form = as as ScheduleForm;
  const current = await planOnPart(id, momentIn(request.url));
  if (!current) return notFound('plan');
  const tag = (await countNamesakes(id)) > 0 ? tagOf(id) : undefined;
  const schedule = await workOnPart('schedule', current.part, { plan: current.plan, as: form, tag });
  if (!schedule.ok) return refuse(409, ...schedule.problems);
  return new Response(schedule.value.text, {
    headers: {
      'content-type': TYPES[form],
      'content-disposition': attachment(schedule.value.name),
      // A drawing opened by itself must not run anything.
      'content-security-policy': "default-src 'none'; style-src 'unsafe-inline'; frame-ancestors 'none'",
    },
  });
});
