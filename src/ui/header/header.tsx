'use client';

import { Menu as MenuIcon, Redo2, Undo2 } from 'lucide-react';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { DropdownMenu } from 'radix-ui';
import { describeEdit } from '@/core/plan/make-edits';
import { api } from '../client/api';
import { toggleTheme } from '../parts/theme-button';
import { useWorkspace } from '../workspace/context';
import { VIEWS } from '../workspace/selection';
import { FindField } from './find-field';
import { SavedState } from './saved-state';

interface Props {
  onHelp: () => void;
  onChangePart: () => void;
}

export function Header({ onHelp, onChangePart }: Props) {
  const { derived, state, session, view, setView, select } = useWorkspace();
  const { plan, device, pkg, counts } = derived;
  const undo = state.undo.at(-1);
  const redo = state.redo.at(-1);
  return (
    <header className="flex h-11 items-center gap-3.5 border-b max-md:gap-1.5 border-ink bg-sheet pl-2 pr-4">
      <PlanMenu onHelp={onHelp} onChangePart={onChangePart} />
      <h1 className="min-w-12 shrink overflow-hidden">
        <button
          type="button"
          className="block w-full max-w-52 overflow-hidden text-ellipsis whitespace-nowrap text-[15px] font-semibold hover:underline"
          title="The plan: name, revision, code options"
          onClick={() => select(null)}
        >
          {plan.name}
          {plan.revision && ` · rev ${plan.revision}`}
        </button>
      </h1>
      <button
        type="button"
        className="min-w-0 overflow-hidden text-ellipsis whitespace-nowrap text-soft hover:underline max-lg:hidden"
        title="Change package or part"
        onClick={onChangePart}
      >
        {device.description.name} · {pkg.name}
      </button>
      <nav aria-label="Views" className="flex shrink-0 gap-0.5">
        {VIEWS.map((one) => (
          <button
            key={one.id}
            type="button"
            aria-current={view === one.id ? 'page' : undefined}
            className={`border-b-2 px-2 py-1 ${view === one.id ? 'border-pick font-medium' : 'border-transparent text-soft hover:text-ink'}`}
            onClick={() => setView(one.id)}
          >
            {one.title}
          </button>
        ))}
      </nav>
      <span className="ml-auto flex">
        <button
          type="button"
          className="p-1.5 text-soft hover:text-ink disabled:opacity-40"
          disabled={!undo}
          aria-label="Undo"
          title={undo ? `Undo: ${describeEdit(plan, undo)} (Ctrl Z)` : 'Nothing to undo'}
          onClick={() => session.undo()}
        >
          <Undo2 size={16} />
        </button>
        <button
          type="button"
          className="p-1.5 text-soft hover:text-ink disabled:opacity-40"
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
      <SavedState />
    </header>
  );
}

const ITEM = 'cursor-pointer px-3 py-1 outline-none data-[highlighted]:bg-pickbg';

function PlanMenu({ onHelp, onChangePart }: Props) {
  const { planId, derived } = useWorkspace();
  const router = useRouter();

  async function duplicate() {
    const answer = await api.duplicatePlan(planId);
    if (answer.ok) router.push(`/plans/${answer.value.id}`);
  }

  return (
    <DropdownMenu.Root modal={false}>
      <DropdownMenu.Trigger className="p-1.5 text-soft hover:text-ink" aria-label="Menu" title="Menu">
        <MenuIcon size={17} />
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content align="start" className="z-40 min-w-52 border border-ink bg-sheet py-1">
          <DropdownMenu.Item asChild className={ITEM}>
            <Link prefetch={false} href="/" className="block">
              All plans
            </Link>
          </DropdownMenu.Item>
          <DropdownMenu.Separator className="my-1 border-t border-rule" />
          <DropdownMenu.Item asChild className={ITEM}>
            <a className="block" href={`/api/plans/${planId}/file`} download>
              Export {derived.plan.name} as a file
            </a>
          </DropdownMenu.Item>
          <DropdownMenu.Item className={ITEM} onSelect={() => void duplicate()}>
            Duplicate
          </DropdownMenu.Item>
          <DropdownMenu.Separator className="my-1 border-t border-rule" />
          <DropdownMenu.Item className={ITEM} onSelect={onChangePart}>
            Change package or part …
          </DropdownMenu.Item>
          <DropdownMenu.Item asChild className={ITEM}>
            <Link prefetch={false} href={`/parts/${derived.plan.device}`} className="block">
              The part: {derived.device.description.name}
            </Link>
          </DropdownMenu.Item>
          <DropdownMenu.Separator className="my-1 border-t border-rule" />
          <DropdownMenu.Item className={ITEM} onSelect={() => toggleTheme()}>
            Light or dark
          </DropdownMenu.Item>
          <DropdownMenu.Item className={ITEM} onSelect={onHelp}>
            Keys
          </DropdownMenu.Item>
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
