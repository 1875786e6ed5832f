'use client';

import Link from 'next/link';
import { DropdownMenu } from 'radix-ui';
import type { MenuProps } from './menu-button';

const ITEM = 'block cursor-pointer px-3 py-1 outline-none data-[highlighted]:bg-pickbg';

/** The menu behind a {@link MenuButton}, open from the start: whoever fetches it has pressed the button. */
export function Menu({ label, icon, className, align, side, width, leavesFocus, entries }: MenuProps) {
  return (
    <DropdownMenu.Root modal={false} defaultOpen>
      <DropdownMenu.Trigger className={className} aria-label={label} title={label}>
        {icon}
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align={align}
          side={side}
          className={`z-40 max-h-[70vh] overflow-auto border border-ink bg-sheet py-1 ${width}`}
          onCloseAutoFocus={leavesFocus ? (event) => event.preventDefault() : undefined}
        >
          {entries().map((entry) => {
            if ('rule' in entry)
              return <DropdownMenu.Separator key={entry.rule} className="my-1 border-t border-rule" />;
            if ('onSelect' in entry)
              return (
                <DropdownMenu.Item key={entry.id} className={ITEM} onSelect={entry.onSelect}>
                  {entry.label}
                </DropdownMenu.Item>
              );
            return (
              <DropdownMenu.Item key={entry.id} asChild className={ITEM}>
                {entry.download ? (
                  <a href={entry.href} download>
                    {entry.label}
                  </a>
                ) : (
                  <Link prefetch={false} href={entry.href}>
                    {entry.label}
                  </Link>
                )}
              </DropdownMenu.Item>
            );
          })}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
