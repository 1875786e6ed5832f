'use client';

import { useSession } from '../workspace/context';

/** Says truthfully whether what is on the screen is stored. */
export function SavedState() {
  const state = useSession();
  const { save, pending } = state;
  const count = `${pending.length} ${pending.length === 1 ? 'change' : 'changes'}`;
  const words = (() => {
    switch (save.kind) {
      case 'saved':
        return save.at === null ? 'saved' : `saved ${clock(save.at)}`;
      case 'saving':
        return 'saving …';
      case 'retrying':
        return `not saved, retrying · ${count} kept`;
      case 'gone':
        return 'deleted elsewhere';
      case 'past':
        return 'as it was';
      case 'reading':
        return 'read only';
    }
  })();
  const bad = save.kind === 'retrying' || save.kind === 'gone';
  return (
    <span
      role="status"
      className={`min-w-[76px] whitespace-nowrap text-right tabular-nums ${bad ? 'font-medium text-err' : 'text-soft'}`}
      title={
        save.kind === 'retrying'
          ? 'The server cannot be reached. Your changes are kept in this browser and sent as soon as it answers.'
          : undefined
      }
    >
      {words}
    </span>
  );
}

const clock = (time: number): string =>
  new Date(time).toLocaleTimeString('en-GB', { hour: '2-digit', minute: '2-digit' });
