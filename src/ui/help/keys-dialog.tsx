'use client';

import { Dialog } from 'radix-ui';
import { useState } from 'react';
import { hasWords, wordsOf } from '@/core/base/text/search-words';
import { COMMANDS } from '../commands/commands';
import { START_KEYS } from '../commands/start-keys';

interface Line {
  keys: string;
  title: string;
}

/** Keys of single parts of the page, beside those that hold everywhere. */
const WALKS: readonly { title: string; lines: readonly Line[] }[] = [
  {
    title: 'Walk',
    lines: [
      { keys: '↑ ↓', title: 'Walk along the package, or through the nets' },
      { keys: '← →', title: 'Jump to the next edge' },
      { keys: 'Space', title: 'Take the pad under the focus' },
      { keys: 'Ctrl Enter', title: 'In the field for new nets: add them, and place all' },
      { keys: '?', title: 'Show these keys' },
    ],
  },
  {
    title: 'Along the lanes of the bench',
    lines: [
      { keys: '← →', title: 'Move along the time' },
      { keys: '+ −', title: 'Closer, further' },
      { keys: '[ ]', title: 'Cursor A to the change before, or the next one' },
      { keys: 'Home', title: 'From power-up to now' },
    ],
  },
];

const ALL = [
  ...[...new Set(COMMANDS.map((command) => command.group))].map((group) => ({
    title: group as string,
    lines: COMMANDS.filter((command) => command.group === group) as readonly Line[],
  })),
  ...WALKS,
  { title: 'On the start page', lines: START_KEYS as readonly Line[] },
];

/** Every key, in one table that can be searched. */
export function KeysDialog({ open, onOpenChange }: { open: boolean; onOpenChange: (open: boolean) => void }) {
  const [text, setText] = useState('');
  const words = wordsOf(text);
  const shown = ALL.flatMap(({ title, lines }) => {
    const found = lines.filter((line) => hasWords(words, [line.title, line.keys, title]));
    return found.length > 0 ? [{ title, lines: found }] : [];
  });
  return (
    <Dialog.Root open={open} onOpenChange={onOpenChange}>
      <Dialog.Portal>
        <Dialog.Overlay className="dialog-shade" />
        <Dialog.Content className="dialog" aria-describedby={undefined}>
          <div className="mb-2 flex items-baseline gap-3">
            <Dialog.Title className="text-lg font-semibold">Keys</Dialog.Title>
            <input
              aria-label="Search the keys"
              placeholder="what you want to do, or a key"
              className="min-w-0 flex-1"
              value={text}
              onChange={(event) => setText(event.target.value)}
            />
            <Dialog.Close className="link">Close</Dialog.Close>
          </div>
          {shown.length === 0 && <p className="text-soft">No key does that.</p>}
          {shown.map(({ title, lines }) => (
            <Group key={title} title={title} lines={lines} />
          ))}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

function Group({ title, lines }: { title: string; lines: readonly Line[] }) {
  return (
    <section className="mt-2">
      <h3 className="border-b border-rule font-semibold">{title}</h3>
      <dl className="grid grid-cols-[110px_1fr] pt-1">
        {lines.map((line) => (
          <div key={line.title} className="contents">
            <dt className="m text-soft">{line.keys}</dt>
            <dd>{line.title}</dd>
          </div>
        ))}
      </dl>
    </section>
  );
}
