'use client';

import { Menu as MenuIcon, PanelBottom, PanelLeft, PanelRight, Redo2, Undo2 } from 'lucide-react';
import { useRouter } from 'next/navigation';
import { useEffect, useRef, useState } from 'react';
import { describeEdit } from '@/core/plan/edits/edits';
import { tagOf } from '@/core/plan/summary';
import { api } from '../client/api';
import { later } from '../parts/later';
import { MenuButton } from '../parts/menu-button';
import { toggleTheme } from '../parts/theme-button';
import { useAccountEntries } from '../people/account-menu';
import { useMay } from '../people/me';
import { Others } from '../review/people';
import { useActions, useDerived, useSession, useView } from '../workspace/context';
import { PANES, type PaneId, type Panes } from '../workspace/panes';
import { VIEWS } from '../workspace/selection';
import { FindField } from './find-field';
import { SavedState } from './saved-state';

const ViewHelp = later('Help for the view', () => import('../help/view-help').then((one) => one.ViewHelp));

const PANE_ICONS: Record<PaneId, typeof PanelLeft> = {
  nets: PanelLeft,
  findings: PanelBottom,
  inspector: PanelRight,
};

interface Props {
  onHelp: () => void;
  onGuide: () => void;
  onChangePart: () => void;
}

export function Header({ panes, onHelp, onGuide, onChangePart }: Props & { panes: Panes }) {
  const { derived } = useDerived();
  const { view } = useView();
  const { session, setView, select } = useActions();
  const state = useSession();
  const { plan, device, pkg, counts } = derived;
  const undo = state.undo.at(-1);
  const redo = state.redo.at(-1);
  return (
    <header className="flex h-11 items-center gap-3.5 border-b max-md:gap-1 border-ink bg-sheet pl-2 pr-4 max-md:pl-1 max-md:pr-1.5">
      <PlanMenu onHelp={onHelp} onGuide={onGuide} onChangePart={onChangePart} />
      <h1 className="flex min-w-12 shrink-[0.25] items-baseline gap-1.5 overflow-hidden">
        <button
          type="button"
          className="block max-w-52 overflow-hidden text-ellipsis whitespace-nowrap text-[15px] font-semibold hover:underline"
          title="The plan: name, revision, code options"
          onClick={() => select(null)}
        >
          {plan.name}
          {plan.revision && ` · rev ${plan.revision}`}
        </button>
        <NamesakeTag />
      </h1>
      <button
        type="button"
        className="min-w-0 overflow-hidden text-ellipsis whitespace-nowrap text-soft hover:underline max-lg:hidden"
        title="Change package or part"
        onClick={onChangePart}
      >
        {device.description.name} · {pkg.name}
      </button>
      <nav
        aria-label="Views"
        className="flex shrink-0 gap-0.5 max-lg:min-w-12 max-lg:shrink max-lg:overflow-x-auto"
      >
        {VIEWS.map((one) => (
          <button
            key={one.id}
            type="button"
            aria-current={view === one.id ? 'page' : undefined}
            className={`border-b-2 px-1.5 py-1 max-md:px-[3px] ${view === one.id ? 'border-pick font-medium' : 'border-transparent text-soft hover:text-ink'}`}
            onClick={() => setView(one.id)}
          >
            {one.title}
          </button>
        ))}
      </nav>
      <ViewHelp />
      <span className="ml-auto flex">
        <button
          type="button"
          className="p-1.5 text-soft hover:text-ink disabled:opacity-40 max-md:px-1"
          disabled={!undo}
          aria-label="Undo"
          title={undo ? `Undo: ${describeEdit(plan, undo)} (Ctrl Z)` : 'Nothing to undo'}
          onClick={() => session.undo()}
        >
          <Undo2 size={16} />
        </button>
        <button
          type="button"
          className="p-1.5 text-soft hover:text-ink disabled:opacity-40 max-md:px-1"
          disabled={!redo}
          aria-label="Redo"
          title={redo ? `Redo: ${describeEdit(plan, redo)} (Ctrl Shift Z)` : 'Nothing to redo'}
          onClick={() => session.redo()}
        >
          <Redo2 size={16} />
        </button>
      </span>
      <FindField />
      <span className="inline-flex gap-2.5 whitespace-nowrap" data-testid="counts">
        <span className={counts.error > 0 ? 'text-err' : 'text-soft'}>
          ▲ {counts.error} <span className="sr-only">errors</span>
        </span>
        <span className={counts.warning > 0 ? 'text-warn' : 'text-soft'}>
          △ {counts.warning} <span className="sr-only">warnings</span>
        </span>
      </span>
      <Others />
      <SavedState />
      <span className="flex">
        {PANES.map((pane) => {
          const Icon = PANE_ICONS[pane];
          return (
            <button
              key={pane}
              type="button"
              className={`p-1 hover:text-ink ${panes.folded[pane] ? 'text-soft opacity-60' : 'text-soft'}`}
              aria-label={`Pane of ${pane === 'inspector' ? 'the inspector' : `the ${pane}`}`}
              aria-pressed={!panes.folded[pane]}
              title={`${panes.folded[pane] ? 'Unfold' : 'Fold'} ${pane === 'inspector' ? 'the inspector' : `the ${pane}`}`}
              onClick={() => panes.toggle(pane)}
            >
              <Icon size={16} />
            </button>
          );
        })}
      </span>
    </header>
  );
}

/** The plan's tag, as long as another plan has its name and revision; said in words when that comes about by renaming. */
function NamesakeTag() {
  const { derived } = useDerived();
  const { planId, session } = useActions();
  const state = useSession();
  const { name, revision } = derived.plan;
  const [count, setCount] = useState(0);
  const settled = state.pending.length === 0;
  const before = useRef<string | null>(null);
  useEffect(() => {
    if (!settled) return;
    const called = `${name} ${revision}`;
    if (before.current === called) return;
    const renamed = before.current !== null;
    before.current = called;
    void api.namesakes(planId).then((answer) => {
      const others = answer.ok ? answer.value.namesakes : 0;
      setCount(others);
      if (renamed && others > 0)
        session.notify(`Another plan is called ${called} too. This one is told from it as ${tagOf(planId)}.`);
    });
  }, [planId, name, revision, settled, session]);
  if (count === 0) return null;
  return (
    <span
      className="m text-soft"
      title={`${count} other ${count > 1 ? 'plans are' : 'plan is'} called so too`}
    >
      {tagOf(planId)}
    </span>
  );
}

function PlanMenu({ onHelp, onGuide, onChangePart }: Props) {
  const { derived } = useDerived();
  const { planId, at } = useActions();
  const router = useRouter();
  const account = useAccountEntries();
  const mayEdit = useMay('edit');

  async function duplicate() {
    const answer = await api.duplicatePlan(planId);
    if (answer.ok) router.push(`/plans/${answer.value.id}`);
  }

  return (
    <MenuButton
      label="Menu"
      icon={<MenuIcon size={17} />}
      className="p-1.5 text-soft hover:text-ink"
      align="start"
      width="min-w-52"
      entries={() => [
        { id: 'plans', label: 'All plans', href: '/' },
        { rule: 'file' },
        {
          id: 'export',
          label: `Export ${derived.plan.name} as a file`,
          href: `/api/plans/${planId}/file${at === undefined ? '' : `?at=${at}`}`,
          download: true,
        },
        ...(mayEdit ? [{ id: 'duplicate', label: 'Duplicate', onSelect: () => void duplicate() }] : []),
        { id: 'history', label: 'History and revisions', href: `/plans/${planId}/history` },
        { id: 'compare', label: 'Compare …', href: `/plans/${planId}/compare` },
        { id: 'review', label: 'Review and sign-off', href: `/plans/${planId}/review` },
        { id: 'variants', label: 'Variants', href: `/plans/${planId}/variants` },
        { rule: 'part' },
        { id: 'change', label: 'Change package or part …', onSelect: onChangePart },
        {
          id: 'part',
          label: `The part: ${derived.device.description.name}`,
          href: `/parts/${derived.plan.device}`,
        },
        { rule: 'page' },
        { id: 'theme', label: 'Light or dark', onSelect: () => toggleTheme() },
        { id: 'guide', label: 'Guide through a first plan', onSelect: onGuide },
        { id: 'keys', label: 'Keys', onSelect: onHelp },
        ...account,
      ]}
    />
  );
}
