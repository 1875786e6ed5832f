'use client';

import Link from 'next/link';
import { AccountMenu } from '../people/account-menu';
import { useMe } from '../people/me';
import { ThemeButton } from './theme-button';

const PLACES = [
  { href: '/', title: 'Plans' },
  { href: '/parts', title: 'Parts' },
] as const;
/** Where there are accounts. */
const PEOPLE = { href: '/people', title: 'People' } as const;

/** Head of the pages outside a plan. */
export function PageHead({ here }: { here: (typeof PLACES)[number]['href'] | '/people' | '/account' }) {
  const me = useMe();
  return (
    <header className="flex h-11 items-center gap-4 border-b border-ink bg-sheet px-6">
      <span className="text-[15px] font-semibold">Mavrek</span>
      <nav aria-label="Pages" className="flex gap-0.5">
        {[...PLACES, ...(me ? [PEOPLE] : [])].map(({ href, title }) => (
          <Link
            key={href}
            prefetch={false}
            href={href}
            data-start={href === '/parts' ? 'parts' : undefined}
            aria-current={here === href ? 'page' : undefined}
            className={`border-b-2 px-2 py-1 ${here === href ? 'border-pick font-medium' : 'border-transparent text-soft hover:text-ink'}`}
          >
            {title}
          </Link>
        ))}
      </nav>
      <span className="ml-auto" />
      <span className="text-soft max-md:hidden">what every pin does, and code that proves it</span>
      <AccountMenu />
      <ThemeButton />
    </header>
  );
}
