import type { Metadata } from 'next';
import { meOf } from '@/server/people/accounts';
import { auditOf } from '@/server/people/audit';
import { listInvitations } from '@/server/people/invitations';
import { mayDo, whoNow, workspaceNow } from '@/server/people/who';
import { listMembers } from '@/server/people/workspaces';
import { NoAccounts } from '@/ui/people/no-accounts';
import { PeoplePage } from '@/ui/people/people-page';
import { OPERATIONS } from '../api/openapi/operations';

export const dynamic = 'force-dynamic';
export const metadata: Metadata = { title: 'People · Mavrek' };

export default async function Page() {
  const me = await meOf(whoNow());
  if (!me) return <NoAccounts />;
  const here = workspaceNow();
  const members = await listMembers(here);
  const owned = mayDo('manage')
    ? { invitations: await listInvitations(here), audit: await auditOf(here) }
    : undefined;
  const words = Object.fromEntries(Object.entries(OPERATIONS).map(([name, { summary }]) => [name, summary]));
  return <PeoplePage me={me} members={members} owned={owned} words={words} />;
}
