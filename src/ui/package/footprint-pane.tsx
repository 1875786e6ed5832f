'use client';

import { Dialog } from 'radix-ui';
import { useState } from 'react';
import { useWorkspace } from '../workspace/context';
import { Footprint } from './footprint';

/** The small footprint below the nets; enlarged, it carries labels, for work at the bench. */
export function FootprintPane() {
  const { derived } = useWorkspace();
  const [large, setLarge] = useState(false);
  return (
    <div className="flex shrink-0 items-end gap-2 border-t border-rule px-3 py-2 [@media(max-height:560px)]:hidden">
      <div className="h-[92px] w-[92px] shrink-0">
        <Footprint labels={false} />
      </div>
      <div className="min-w-0 text-[12px] text-soft">
        <p>
          seen from above,{' '}
          {derived.pkg.shape.kind === 'ball-grid' ? 'A1 at the top left' : '○ is at terminal 1'}
        </p>
        <button type="button" className="link" onClick={() => setLarge(true)}>
          enlarge
        </button>
      </div>
      <Dialog.Root open={large} onOpenChange={setLarge}>
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
    </div>
  );
}
