import { attachment } from '@/core/base/text/file-name';
import { planFileName, printPlan } from '@/core/plan/file/print-plan';
import { tagOf } from '@/core/plan/summary';
import { momentIn, planThen } from '@/server/plan-on-part';
import { countNamesakes } from '@/server/plans';
import { notFound, route } from '../../../http';

export const dynamic = 'force-dynamic';

/** The plan as a file, to be kept in a repository. */
export const GET = route<{ id: string }>(async (request, { id }) => {
  const at = momentIn(request.url);
  const current = Number.isNaN(at) ? undefined : await planThen(id, at);
  if (!current) return notFound('plan');
  // Two files of one name would end in one place.
  const tag = (await countNamesakes(id)) > 0 ? tagOf(id) : undefined;
  return new Response(printPlan(current.plan), {
    headers: {
      'content-type': 'application/json; charset=utf-8',
      'content-disposition': attachment(planFileName(current.plan, { tag })),
    },
  });
});
