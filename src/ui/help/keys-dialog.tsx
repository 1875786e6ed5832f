'use client';

import { Dialog } from 'radix-ui';
import { COMMANDS } from '../commands/commands';

const ALONG_THE_PACKAGE = [
  { keys: '↑ ↓', title: 'Walk along the package, or through the nets' },
  { keys: '← →', title: 'Jump to the next edge' },
  { keys: 'Space', title: 'Take the pad under the focus' },
  { keys: '?', title: 'Show these keys' },
];

export function KeysDialog({ open, onOpenChange }: { open: boolean; onOpenChange: (open: boolean) => void }) {
  const groups = [...new Set(COMMANDS.map((command) => command.group))];
  return (
    <Dialog.Root open={open} onOpenChange={onOpenChange}>
      <Dialog.Portal>
        <Dialog.Overlay className="dialog-shade" />
        <Dialog.Content className="dialog" aria-describedby={undefined}>
          <div className="mb-2 flex items-baseline">
            <Dialog.Title className="text-lg font-semibold">Keys</Dialog.Title>
            <Dialog.Close className="link ml-auto">Close</Dialog.Close>
          </div>
          {groups.map((group) => (
            <Group key={group} title={group} lines={COMMANDS.filter((command) => command.group === group)} />
          ))}
          <Group title="Walk" lines={ALONG_THE_PACKAGE} />
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

function Group({ title, lines }: { title: string; lines: readonly { keys: string; title: string }[] }) {
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
