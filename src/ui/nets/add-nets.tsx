'use client';

import { BookText } from 'lucide-react';
import { type KeyboardEvent, useId, useState } from 'react';
import { hertzText } from '@/core/device/offers';
import { currentText, voltsText } from '@/core/electrical/limits';
import { TIE_WORDS } from '@/core/placing/ties';
import { addNets } from '@/core/plan/make-edits';
import { templatesFor } from '@/core/plan/templates';
import { parseTypedNets, ROLE_WORDS } from '@/core/plan/typed-nets';
import { type Net, roleText } from '@/core/plan/types';
import { newId } from '../client/ids';
import { MenuButton } from '../parts/menu-button';
import { useWorkspace } from '../workspace/context';

/** Typing new nets, several at a time, with a preview of what Enter will add. */
export function AddNets() {
  const { derived, selectedNet, dispatch, select } = useWorkspace();
  const { plan, device } = derived;
  const [text, setText] = useState('');
  const help = useId();
  const typed =
    text.trim() === '' ? null : parseTypedNets(text, plan, device.description, selectedNet?.circuit, newId);

  function add() {
    if (!typed || typed.nets.length === 0) return;
    if (dispatch(addNets(plan, typed.circuits, typed.nets, typed.ties))) {
      setText('');
      const first = typed.nets[0];
      if (first) select({ kind: 'net', id: first.id });
    }
  }

  function onKeyDown(event: KeyboardEvent) {
    if (event.key === 'Enter' && !event.shiftKey) {
      event.preventDefault();
      add();
    }
    if (event.key === 'Escape') {
      setText('');
      (event.target as HTMLElement).blur();
    }
  }

  return (
    <div className="border-t border-rule px-3 py-2">
      {typed && (
        <div id={help} className="mb-1.5 max-h-40 overflow-auto text-[12px]" aria-live="polite">
          {typed.nets.map((net) => (
            <div key={net.id} className="flex gap-2 whitespace-nowrap">
              <span className="font-medium">{net.name}</span>
              <span className="overflow-hidden text-ellipsis text-soft">
                {roleText(net.role)}
                {net.settings.active === 'low' ? ' · low' : ''}
                {net.settings.pull ? ` · pull ${net.settings.pull}` : ''}
                {net.placement ? ` · on ${net.placement.pad}` : ''}
                {demandWords(net).map((words) => ` · ${words}`)}
                {typed.ties
                  .filter((tie) => tie.nets.includes(net.id))
                  .map((tie) => ` · ${TIE_WORDS[tie.kind]}`)}
              </span>
            </div>
          ))}
          {typed.problems.map((problem) => (
            <div key={problem} className="text-warn">
              {problem}
            </div>
          ))}
          <div className="text-soft">
            {typed.nets.length > 0 ? `Enter adds ${typed.nets.length}` : 'Nothing to add yet'} · words:{' '}
            {ROLE_WORDS}
          </div>
        </div>
      )}
      <div className="flex items-start gap-1">
        <textarea
          id="add-nets"
          aria-label="New nets"
          aria-describedby={typed ? help : undefined}
          rows={1}
          spellCheck={false}
          className="field-sizing-content max-h-24 w-full resize-none border-dashed"
          placeholder="mast: uart tx rx · de out low"
          value={text}
          onChange={(event) => setText(event.target.value)}
          onKeyDown={onKeyDown}
        />
        <Templates
          onChoose={(line) => {
            setText((old) => (old.trim() === '' ? line : `${old.trimEnd()}\n${line}`));
            document.getElementById('add-nets')?.focus();
          }}
        />
      </div>
    </div>
  );
}

/** Figures that were typed, as they were understood. */
function demandWords({ demands }: Net): string[] {
  if (!demands) return [];
  const words: string[] = [];
  if (demands.rateHertz !== undefined) words.push(hertzText(demands.rateHertz));
  if (demands.milliamps !== undefined) words.push(currentText(demands.milliamps));
  if (demands.farVolts !== undefined) words.push(voltsText(demands.farVolts));
  if (demands.farPull === 'driven') words.push('driven');
  else if (demands.farPull !== undefined) words.push(`pulled ${demands.farPull}`);
  return words;
}

/** Usual circuits, put into the field as if they had been typed. */
function Templates({ onChoose }: { onChoose: (text: string) => void }) {
  const { derived } = useWorkspace();
  return (
    <MenuButton
      label="Usual circuits"
      icon={<BookText size={15} />}
      className="button px-1"
      align="start"
      side="top"
      width="min-w-64"
      leavesFocus
      entries={() =>
        templatesFor(derived.device.description).map(({ id, title, text }) => ({
          id,
          label: (
            <>
              {title}
              <div className="m text-soft">{text}</div>
            </>
          ),
          onSelect: () => onChoose(text),
        }))
      }
    />
  );
}
