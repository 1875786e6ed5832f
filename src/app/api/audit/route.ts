import { auditOf } from '@/server/people/audit';
import { workspaceNow } from '@/server/people/who';
import { answer, refuse, route } from '../http';

export const dynamic = 'force-dynamic';

/** Who did what in the workspace, newest first, a page at a time: `?before=ID` for older entries. */
export const GET = route(async (request) => {
  const before = new URL(request.url).searchParams.get('before');
  if (before !== null && !/^\d{1,15}$/.test(before))
    return refuse(400, { place: 'before', message: 'must be a whole number' });
  return answer(await auditOf(workspaceNow(), before === null ? undefined : Number(before)));
});
