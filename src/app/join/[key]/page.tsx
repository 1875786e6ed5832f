import type { Metadata } from 'next';
import { meOf } from '@/server/people/accounts';
import { invitationOf } from '@/server/people/invitations';
import { authOn, whoNow } from '@/server/people/who';
import { JoinPage } from '@/ui/people/join-page';
import { NoAccounts } from '@/ui/people/no-accounts';

export const dynamic = 'force-dynamic';
export const metadata: Metadata = { title: 'Join · Mavrek', referrer: 'no-referrer' };

export default async function Page({ params }: { params: Promise<{ key: string }> }) {
  if (!authOn()) return <NoAccounts />;
  const { key } = await params;
  const [invitation, me] = await Promise.all([invitationOf(key), meOf(whoNow())]);
  return (
    <JoinPage
      secret={key}
      signedIn={me?.email}
      invitation={
        invitation && {
          workspace: invitation.workspaceName,
          email: invitation.email,
          role: invitation.role,
          resets: invitation.personId !== null,
          known: invitation.known,
        }
      }
    />
  );
}
