import type { Metadata } from 'next';
import { ownPage } from '@/core/people/own-page';
import { oidcTitle } from '@/server/people/settings';
import { authOn } from '@/server/people/who';
import { NoAccounts } from '@/ui/people/no-accounts';
import { SignInPage } from '@/ui/people/sign-in-page';

export const dynamic = 'force-dynamic';
export const metadata: Metadata = { title: 'Sign in · Mavrek' };

interface Props {
  searchParams: Promise<{ next?: string; why?: string }>;
}

export default async function Page({ searchParams }: Props) {
  if (!authOn()) return <NoAccounts />;
  const { next, why } = await searchParams;
  const page = ownPage(typeof next === 'string' ? next : null);
  return (
    <SignInPage
      next={page}
      elsewhere={oidcTitle()}
      why={typeof why === 'string' ? why.slice(0, 200) : undefined}
    />
  );
}
