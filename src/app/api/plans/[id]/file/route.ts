import { planFileName, printPlan } from '@/core/formats/print-plan';
import { attachment } from '@/core/text/file-name';
import { readPlan } from '@/server/plans';
import { notFound, route } from '../../../http';

export const dynamic = 'force-dynamic';

/** The plan as a file, to be kept in a repository. */
export const GET = route<{ id: string }>(async (_request, { id }) => {
  const current = await readPlan(id);
  if (!current) return notFound('plan');
  return new Response(printPlan(current.plan), {
    headers: {
      'content-type': 'application/json; charset=utf-8',
      'content-disposition': attachment(planFileName(current.plan)),
    },
  });
});
