'use client';

import { UserRound } from 'lucide-react';
import { api } from '../client/api';
import { MenuButton, type MenuEntry } from '../parts/menu-button';
import { useMe } from './me';

const away = (): void => window.location.assign('/');

/** What menus hold of whoever is signed in; nothing on a server without accounts. */
export function useAccountEntries(): readonly MenuEntry[] {
  const me = useMe();
  if (!me) return [];
  return [
    { rule: 'account' },
    ...me.workspaces
      .filter(({ id }) => id !== me.workspace.id)
      .map(({ id, name }) => ({
        id: `workspace-${id}`,
        label: `Go to ${name}`,
        onSelect: () => void api.enterWorkspace(id).then(away),
      })),
    { id: 'people', label: `People in ${me.workspace.name}`, href: '/people' },
    { id: 'account', label: 'Your account', href: '/account' },
    { id: 'sign-out', label: 'Sign out', onSelect: () => void api.signOut().then(away) },
  ];
}

/** Who is signed in and where, in the head of a page. */
export function AccountMenu() {
  const me = useMe();
  const entries = useAccountEntries();
  if (!me) return null;
  return (
    <>
      <span className="max-w-40 overflow-hidden text-ellipsis whitespace-nowrap text-soft max-sm:hidden">
        {me.name} · {me.workspace.name}
      </span>
      <MenuButton
        label="Account"
        icon={<UserRound size={16} />}
        className="p-1.5 text-soft hover:text-ink"
        align="end"
        width="min-w-48"
        entries={() => entries.slice(1)}
      />
    </>
  );
}
