'use client';

import { Popover } from 'radix-ui';
import { COMMANDS } from '../commands/commands';
import { useView } from '../workspace/context';
import { VIEWS, type ViewId } from '../workspace/selection';

interface Help {
  shows: string;
  /** What one does here, a sentence each. */
  does: readonly string[];
}

/** What each view is for, where it is used. The guide in `docs/guide.md` says more. */
const HELP: Record<ViewId, Help> = {
  package: {
    shows: 'The edges of the package unfolded: a row a pin, with its pad, net, function and settings.',
    does: [
      'Select a net that has no pad: pads that can carry it step forward, ranked; 1 to 9 take one, Enter the best.',
      'Drag a net onto a pad, or a pad’s row onto another; a taken pad offers the moves that make room.',
      'Arrows walk along the edges.',
    ],
  },
  ports: {
    shows: 'The pads as registers see them: rows are ports, columns are bits.',
    does: [
      'Select bits by click, drag, Shift or Ctrl; their mask reads in three notations, and a click on it copies.',
    ],
  },
  functions: {
    shows: 'Pads × mux codes: where each signal can go, what is taken, what is scarce.',
    does: ['Type to filter; while a net looks for a pad, a click on a function that fits places it.'],
  },
  registers: {
    shows: 'Every register that the plan touches, bit by bit, out of reset and as planned.',
    does: [
      'Click bits to see whose they are and which operations write them; type another value over one to see what it would mean.',
      'Read back takes a dump, or existing C, and shows what plan it is.',
    ],
  },
  power: {
    shows: 'Current in the worst case, by supply, port and package, against their limits.',
    does: ['Loads come from what nets demand: say it in the inspector, under What it demands.'],
  },
  board: {
    shows:
      'What sits at the far end of each net, connectors and labels, and where the plan and the schematic differ.',
    does: ['Drop a netlist here to compare; print the pin schedule from here.'],
  },
  bench: {
    shows:
      'The plan, tried before there is a board: its operations on the machine of the proof, with circuits at the far end.',
    does: [
      'Step, run, go back; click an output, a button, another chip’s line; or type a step, or what is expected.',
      'Keep what was played as a trial; run all trials; break it on purpose.',
      'In the lanes a click sets cursor A, Shift click B; a click on a change shows what made it.',
    ],
  },
  code: {
    shows: 'The generated code, live, in every language, with what the proof says of it.',
    does: [
      'Options at the right when nothing is selected; download, or copy one file; what changed since the last export is marked.',
    ],
  },
};

/** What the view in sight is for, and its keys. */
export function ViewHelp() {
  const { view } = useView();
  const title = VIEWS.find((one) => one.id === view)?.title ?? '';
  const { shows, does } = HELP[view];
  const keys = COMMANDS.filter(
    (one) =>
      one.id === view ||
      (view === 'bench' && one.group === 'Bench') ||
      (view === 'package' && one.group === 'Place'),
  );
  return (
    <Popover.Root>
      <Popover.Trigger asChild>
        <button
          type="button"
          id="view-help"
          aria-label={`About the ${title.toLowerCase()} view`}
          title={`About this view (H)`}
          className="h-6 w-6 text-soft hover:text-ink max-lg:hidden"
        >
          ?
        </button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="start"
          sideOffset={6}
          aria-label={`About the ${title.toLowerCase()} view`}
          className="z-30 w-96 border border-ink bg-sheet p-3 shadow-sm"
        >
          <h2 className="font-semibold">{title}</h2>
          <p>{shows}</p>
          <ul className="mt-1 list-disc pl-4">
            {does.map((one) => (
              <li key={one}>{one}</li>
            ))}
          </ul>
          <dl className="mt-2 grid grid-cols-[64px_1fr] border-t border-rule pt-1">
            {keys.map((one) => (
              <div key={one.id} className="contents">
                <dt className="m text-soft">{one.keys}</dt>
                <dd>{one.title}</dd>
              </div>
            ))}
          </dl>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
