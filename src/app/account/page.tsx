import type { Metadata } from 'next';
import { meOf } from '@/server/people/accounts';
import { listSessions } from '@/server/people/sessions';
import { listTokens } from '@/server/people/tokens';
import { whoNow } from '@/server/people/who';
import { AccountPage } from '@/ui/people/account-page';
import { NoAccounts } from '@/ui/people/no-accounts';

export const dynamic = 'force-dynamic';
export const metadata: Metadata = { title: 'Your account · Mavrek' };

export default async function Page() {
  const who = whoNow();
  const me = await meOf(who);
  if (!me) return <NoAccounts />;
  const [sessions, tokens] = await Promise.all([listSessions(me.id, who.session ?? ''), listTokens(me.id)]);
  return <AccountPage me={me} sessions={sessions} tokens={tokens} />;
}
