'use client';

import { type ComponentType, type ReactNode, useState } from 'react';

export type MenuEntry =
  | { id: string; label: ReactNode; onSelect: () => void }
  | { id: string; label: ReactNode; href: string; download?: true }
  /** A line between groups, under a name of its own. */
  | { rule: string };

export interface MenuProps {
  label: string;
  icon: ReactNode;
  className: string;
  align: 'start' | 'end';
  side?: 'top' | 'bottom';
  /** Class for the least width. */
  width: string;
  /** What is chosen puts the focus somewhere itself. */
  leavesFocus?: true;
  entries: () => readonly MenuEntry[];
}

const load = (): Promise<ComponentType<MenuProps>> => import('./menu').then((one) => one.Menu);

/** A button that opens a menu. What menus are made of is fetched when the first of them is reached, not with the page. */
export function MenuButton(props: MenuProps) {
  const [Menu, setMenu] = useState<ComponentType<MenuProps> | null>(null);
  const [failed, setFailed] = useState(false);
  if (Menu) return <Menu {...props} />;
  const ahead = (): void => void load().catch(() => undefined);
  return (
    <button
      type="button"
      className={props.className}
      aria-label={props.label}
      aria-haspopup="menu"
      aria-expanded={false}
      title={failed ? `${props.label}: could not be fetched, the server does not answer` : props.label}
      onPointerEnter={ahead}
      onFocus={ahead}
      onClick={() => {
        load()
          .then((loaded) => setMenu(() => loaded))
          .catch(() => setFailed(true));
      }}
    >
      {props.icon}
    </button>
  );
}
