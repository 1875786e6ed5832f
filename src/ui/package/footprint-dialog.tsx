'use client';

import { Dialog } from 'radix-ui';
import { useDerived } from '../workspace/context';
import { Footprint } from './footprint';

interface Props {
  onClose(): void;
}

/** The footprint enlarged, with labels, for work at the bench. */
export function FootprintDialog({ onClose }: Props) {
  const { derived } = useDerived();
  return (
    <Dialog.Root open onOpenChange={(open) => !open && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="dialog-shade" />
        <Dialog.Content
          className="dialog !top-[3vh] !max-h-[94vh] !w-[min(92vh,calc(100vw-32px))]"
          aria-describedby={undefined}
        >
          <div className="mb-1 flex items-baseline">
            <Dialog.Title className="font-semibold">
              {derived.device.description.name} · {derived.pkg.name}
            </Dialog.Title>
            <Dialog.Close className="link ml-auto">Close</Dialog.Close>
          </div>
          <Footprint labels />
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
