import { workspaceNow } from '@/server/people/who';
import { listMembers } from '@/server/people/workspaces';
import { answer, route } from '../http';

export const dynamic = 'force-dynamic';

/** Who is in the workspace. */
export const GET = route(async () => answer({ members: await listMembers(workspaceNow()) }));
