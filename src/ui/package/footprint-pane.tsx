'use client';

import { useState } from 'react';
import { later } from '../parts/later';
import { useDerived } from '../workspace/context';
import { Footprint } from './footprint';

const FootprintDialog = later('The enlarged footprint', () =>
  import('./footprint-dialog').then((one) => one.FootprintDialog),
);

/** The small footprint below the nets; enlarged, it carries labels, for work at the bench. */
export function FootprintPane() {
  const { derived } = useDerived();
  const [large, setLarge] = useState(false);
  return (
    <div className="flex shrink-0 items-end gap-2 border-t border-rule px-3 py-2 [@media(max-height:560px)]:hidden">
      <div className="h-[92px] w-[92px] shrink-0">
        <Footprint labels={false} />
      </div>
      <div className="min-w-0 text-[12px] text-soft">
        <p>
          seen from above, {derived.pkg.shape.kind === 'ball-grid' ? 'A1 at the top left' : '○ is at pin 1'}
        </p>
        <button type="button" className="link" onClick={() => setLarge(true)}>
          enlarge
        </button>
      </div>
      {large && <FootprintDialog onClose={() => setLarge(false)} />}
    </div>
  );
}
