import { placeNet } from '@/core/plan/edits/make-edits';
import { toggleTheme } from '../parts/theme-button';
import type { WorkspaceState } from '../workspace/context';
import { takePad } from '../workspace/place';
import { type BenchKey, pressBenchKey } from './bench-keys';

/**
 * Everything that can be done by key, in one table: it feeds the keys, the search field and the help. A command can be
 * asked whether it applies.
 */
export interface Command {
  id: string;
  title: string;
  group: 'Place' | 'Change' | 'Show' | 'Bench';
  /** As shown: `Ctrl Z`, `/`, `Enter`. */
  keys: string;
  matches(event: KeyboardEvent): boolean;
  applies(workspace: WorkspaceState): boolean;
  run(workspace: WorkspaceState, event?: KeyboardEvent): void;
}

const plain = (event: KeyboardEvent, key: string): boolean =>
  event.key === key && !event.ctrlKey && !event.metaKey && !event.altKey;
const withControl = (event: KeyboardEvent, key: string): boolean =>
  (event.ctrlKey || event.metaKey) && event.key.toLowerCase() === key;

function focusOn(selector: string): boolean {
  const element = document.querySelector<HTMLElement>(selector);
  element?.focus();
  element?.scrollIntoView({ block: 'nearest' });
  if (element instanceof HTMLInputElement) element.select();
  return element !== null;
}

/** Does something as soon as it can be done: what it needs may still be on its way. */
function soon(work: () => boolean, tries = 20): void {
  if (work() || tries === 0) return;
  setTimeout(() => soon(work, tries - 1), 50);
}

/** The first thing in an area that can be changed or pressed. */
const firstIn = (area: string): string =>
  ['[role=radio][tabindex="0"]', 'select', 'input', 'button'].map((one) => `${area} ${one}`).join(', ');

function takeCandidate(workspace: WorkspaceState, index: number): void {
  const { placing, derived, dispatch, setMoving } = workspace;
  const candidate = placing?.candidates[index];
  if (!placing || !candidate) return;
  takePad(derived, placing.net, candidate, dispatch);
  setMoving(null);
}

/** The next net without a pad, after the selected one. */
function nextWaiting(workspace: WorkspaceState): string | undefined {
  const { nets } = workspace.derived.plan;
  const at = nets.findIndex((net) => net.id === workspace.selectedNet?.id);
  const around = [...nets.slice(at + 1), ...nets.slice(0, at + 1)];
  return around.find((net) => !net.placement)?.id;
}

/** A key of the bench; what it does is fetched with the bench. */
const onBench = (
  id: BenchKey,
  title: string,
  keys: string,
  matches: (event: KeyboardEvent) => boolean,
): Command => ({
  id: `bench-${id}`,
  title,
  group: 'Bench',
  keys,
  matches,
  applies: ({ view }) => view === 'bench',
  run: (workspace) => pressBenchKey(id, workspace),
});

export const COMMANDS: readonly Command[] = [
  onBench('step', 'Do one operation', '.', (event) => plain(event, '.')),
  onBench('stage', 'Do the operations of one stage', '>', (event) => plain(event, '>')),
  onBench('run', 'Do all operations; after that let time run, or stand still', 'Space', (event) =>
    plain(event, ' '),
  ),
  onBench('back', 'Take the last step on the bench back', ',', (event) => plain(event, ',')),
  onBench('anew', 'Begin the bench anew', '0', (event) => plain(event, '0')),
  onBench('trials', 'Run all trials', 'Shift T', (event) => plain(event, 'T')),
  {
    id: 'bench-line',
    title: 'Type a step: what is done, or expected',
    group: 'Bench',
    keys: ':',
    matches: (event) => plain(event, ':'),
    applies: ({ view }) => view === 'bench',
    run: () => void focusOn('#bench-line'),
  },
  {
    id: 'take-best',
    title: 'Take the best pad for the net being placed, or apply the placer’s preview',
    group: 'Place',
    keys: 'Enter',
    matches: (event) => plain(event, 'Enter'),
    applies: ({ placing, placer }) => (placing?.candidates.length ?? 0) > 0 || placer.preview !== undefined,
    run: (workspace) => (workspace.placer.preview ? workspace.placer.apply() : takeCandidate(workspace, 0)),
  },
  {
    id: 'take-nth',
    title: 'Take the pad with that rank',
    group: 'Place',
    keys: '1 … 9',
    matches: (event) => /^[1-9]$/.test(event.key) && !event.ctrlKey && !event.metaKey && !event.altKey,
    applies: ({ placing }) => placing !== null,
    run: (workspace, event) => takeCandidate(workspace, Number(event?.key ?? 1) - 1),
  },
  {
    id: 'place-all',
    title: 'Place all nets that have no pad, with a preview',
    group: 'Place',
    keys: 'Shift P',
    matches: (event) => plain(event, 'P'),
    applies: ({ derived, placer }) => derived.plan.nets.length > 0 && placer.phase !== 'working',
    run: ({ placer, select }) => {
      select(null);
      placer.start();
    },
  },
  {
    id: 'next-unplaced',
    title: 'Go to the next net without a pad',
    group: 'Place',
    keys: 'N',
    matches: (event) => plain(event, 'n'),
    applies: (workspace) => nextWaiting(workspace) !== undefined,
    run: (workspace) => {
      const id = nextWaiting(workspace);
      if (id !== undefined) workspace.select({ kind: 'net', id });
    },
  },
  {
    id: 'move',
    title: 'Find another pad for the selected net',
    group: 'Place',
    keys: 'M',
    matches: (event) => plain(event, 'm'),
    applies: ({ selectedNet }) => selectedNet?.placement != null,
    run: ({ selectedNet, setMoving, placing }) => setMoving(placing ? null : (selectedNet?.id ?? null)),
  },
  {
    id: 'lock',
    title: 'Lock the selected net where it is, or unlock it',
    group: 'Place',
    keys: 'K',
    matches: (event) => plain(event, 'k'),
    applies: ({ selectedNet }) => selectedNet?.placement != null,
    run: ({ selectedNet, dispatch }) => {
      if (!selectedNet?.placement) return;
      dispatch(placeNet(selectedNet, { ...selectedNet.placement, locked: !selectedNet.placement.locked }));
    },
  },
  {
    id: 'clear',
    title: 'Take the selected net off its pad',
    group: 'Place',
    keys: 'Delete',
    matches: (event) => plain(event, 'Delete') || plain(event, 'Backspace'),
    applies: ({ selectedNet }) => selectedNet?.placement != null,
    run: ({ selectedNet, dispatch }) => {
      if (selectedNet) dispatch(placeNet(selectedNet, null));
    },
  },
  {
    id: 'undo',
    title: 'Undo',
    group: 'Change',
    keys: 'Ctrl Z',
    matches: (event) => withControl(event, 'z') && !event.shiftKey,
    applies: ({ state }) => state.undo.length > 0,
    run: ({ session }) => session.undo(),
  },
  {
    id: 'redo',
    title: 'Redo',
    group: 'Change',
    keys: 'Ctrl Shift Z',
    matches: (event) => (withControl(event, 'z') && event.shiftKey) || withControl(event, 'y'),
    applies: ({ state }) => state.redo.length > 0,
    run: ({ session }) => session.redo(),
  },
  {
    id: 'add',
    title: 'Type new nets',
    group: 'Change',
    keys: 'A',
    matches: (event) => plain(event, 'a'),
    applies: () => true,
    run: () => void focusOn('#add-nets'),
  },
  {
    id: 'settings',
    title: 'Go to the settings of the selected net',
    group: 'Change',
    keys: 'E',
    matches: (event) => plain(event, 'e'),
    applies: ({ selectedNet }) => selectedNet !== undefined,
    run: () => soon(() => focusOn(firstIn('#net-settings'))),
  },
  {
    id: 'remedy',
    title: 'Go to the first remedy of the findings',
    group: 'Change',
    keys: 'X',
    matches: (event) => plain(event, 'x'),
    // Whether a finding has one is known when it has been tried; that there are findings is known at once.
    applies: ({ derived }) => derived.findings.some((one) => !one.waived),
    run: () => {
      // Folded away, the findings are opened first.
      document.querySelector<HTMLElement>('[data-unfold-findings]')?.click();
      soon(() => focusOn('[data-remedies] button'));
    },
  },
  {
    id: 'download',
    title: 'Download the code',
    group: 'Change',
    keys: 'Shift D',
    matches: (event) => plain(event, 'D'),
    applies: ({ derived }) => derived.planned.length > 0,
    run: ({ setView }) => {
      setView('code');
      soon(() => {
        const button = document.querySelector<HTMLButtonElement>('#download-code');
        if (!button || button.disabled) return false;
        button.focus();
        button.click();
        return true;
      });
    },
  },
  {
    id: 'find',
    title: 'Find a net, pad, pin, signal or alias',
    group: 'Show',
    keys: '/',
    matches: (event) => plain(event, '/') || withControl(event, 'k'),
    applies: () => true,
    run: () => void focusOn('[data-find]'),
  },
  {
    id: 'package',
    title: 'Show the package',
    group: 'Show',
    keys: 'G',
    matches: (event) => plain(event, 'g'),
    applies: () => true,
    run: ({ setView }) => setView('package'),
  },
  {
    id: 'ports',
    title: 'Show the ports',
    group: 'Show',
    keys: 'P',
    matches: (event) => plain(event, 'p'),
    applies: () => true,
    run: ({ setView }) => setView('ports'),
  },
  {
    id: 'functions',
    title: 'Show the functions',
    group: 'Show',
    keys: 'F',
    matches: (event) => plain(event, 'f'),
    applies: () => true,
    run: ({ setView }) => setView('functions'),
  },
  {
    id: 'registers',
    title: 'Show the registers, bit by bit',
    group: 'Show',
    keys: 'R',
    matches: (event) => plain(event, 'r'),
    applies: () => true,
    run: ({ setView }) => setView('registers'),
  },
  {
    id: 'power',
    title: 'Show the currents',
    group: 'Show',
    keys: 'W',
    matches: (event) => plain(event, 'w'),
    applies: () => true,
    run: ({ setView }) => setView('power'),
  },
  {
    id: 'board',
    title: 'Show the board: far ends, schematic, pin schedule',
    group: 'Show',
    keys: 'B',
    matches: (event) => plain(event, 'b'),
    applies: () => true,
    run: ({ setView }) => setView('board'),
  },
  {
    id: 'bench',
    title: 'Show the bench: try the plan before there is a board',
    group: 'Show',
    keys: 'T',
    matches: (event) => plain(event, 't'),
    applies: () => true,
    run: ({ setView }) => setView('bench'),
  },
  {
    id: 'code',
    title: 'Show the code',
    group: 'Show',
    keys: 'C',
    matches: (event) => plain(event, 'c'),
    applies: () => true,
    run: ({ setView }) => setView('code'),
  },
  {
    id: 'history',
    title: 'Show the history: every edit, and the revisions that are kept',
    group: 'Show',
    keys: 'Y',
    matches: (event) => plain(event, 'y'),
    applies: () => true,
    run: ({ planId }) => window.location.assign(`/plans/${planId}/history`),
  },
  {
    id: 'compare',
    title: 'Compare the plan with another, with a revision, or with itself on another part',
    group: 'Show',
    keys: 'Shift Y',
    matches: (event) => plain(event, 'Y'),
    applies: () => true,
    run: ({ planId }) => window.location.assign(`/plans/${planId}/compare`),
  },
  {
    id: 'review',
    title: 'Review: what is said, who approved which circuit, sign-off',
    group: 'Show',
    keys: 'V',
    matches: (event) => plain(event, 'v'),
    applies: () => true,
    run: ({ planId }) => window.location.assign(`/plans/${planId}/review`),
  },
  {
    id: 'help',
    title: 'What this view is for, and its keys',
    group: 'Show',
    keys: 'H',
    matches: (event) => plain(event, 'h'),
    applies: () => true,
    run: () =>
      soon(() => {
        const button = document.querySelector<HTMLButtonElement>('#view-help');
        button?.click();
        return button !== null;
      }),
  },
  {
    id: 'nothing',
    title: 'Stop placing, or select nothing',
    group: 'Show',
    keys: 'Esc',
    matches: (event) => plain(event, 'Escape'),
    applies: ({ selection, placer }) => selection !== null || placer.phase !== 'away',
    run: ({ placing, selectedNet, setMoving, select, selection, placer }) => {
      if (selection === null) placer.leave();
      else if (placing && selectedNet?.placement) setMoving(null);
      else select(null);
    },
  },
  {
    id: 'theme',
    title: 'Light or dark',
    group: 'Show',
    keys: 'L',
    matches: (event) => plain(event, 'l'),
    applies: () => true,
    run: () => toggleTheme(),
  },
];
