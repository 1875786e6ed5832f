'use client';

import { BookText } from 'lucide-react';
import { type KeyboardEvent, useCallback, useEffect, useId, useRef, useState } from 'react';
import { append } from '@/core/base/lists';
import { newId } from '@/core/base/text/new-id';
import { CONSTRAINT_WORDS } from '@/core/derive/candidates/constraints';
import { currentText, voltsText } from '@/core/derive/electrical/limits';
import { hertzText } from '@/core/device/offers';
import { addNets } from '@/core/plan/edits/make-edits';
import { formatText } from '@/core/plan/model/format';
import { type Net, roleText } from '@/core/plan/model/types';
import { templatesFor } from '@/core/plan/templates';
import type { Suggestion, TypedMark, TypedNets } from '@/core/plan/typed-nets/typed-nets';
import { MenuButton } from '../parts/menu-button';
import { useActions, useDerived, usePlacing, useSelection } from '../workspace/context';

type Reader = typeof import('@/core/plan/typed-nets/typed-nets');

/** What reads typed nets, loaded once the page is there: opening it does not wait for it. */
function useReader(): { reader: Reader | null; load(): void } {
  const [reader, setReader] = useState<Reader | null>(null);
  const load = useCallback(() => {
    import('@/core/plan/typed-nets/typed-nets').then((loaded) => setReader(loaded)).catch(() => undefined);
  }, []);
  useEffect(load, [load]);
  return { reader, load };
}

/** Typing new nets, several at a time, with a preview of what Enter will add and marks at what is not understood. */
export function AddNets() {
  const { derived } = useDerived();
  const { selectedNet } = useSelection();
  const { dispatch, select } = useActions();
  const { placer } = usePlacing();
  const { plan, device } = derived;
  const [text, setText] = useState('');
  const [joining, setJoining] = useState(false);
  const help = useId();
  const field = useRef<HTMLTextAreaElement>(null);
  const circuit = plan.circuits.find((one) => one.id === selectedNet?.circuit);
  const joins = joining ? circuit?.id : undefined;
  const { reader, load } = useReader();
  // Lines that were entered before what reads them had come, in their order.
  const [waiting, setWaiting] = useState<readonly { readonly line: string }[]>([]);
  const typed =
    text.trim() === '' || !reader
      ? null
      : reader.parseTypedNets(text, plan, device.description, joins, newId);
  const ready = typed !== null && typed.marks.length === 0 && typed.nets.length > 0;

  function add() {
    if (!reader && text.trim() !== '') {
      load();
      setWaiting([...waiting, { line: text }]);
      setText('');
      return;
    }
    if (!typed) return;
    if (!ready) {
      const [first] = typed.marks;
      if (first) field.current?.setSelectionRange(first.from, first.to);
      return;
    }
    if (dispatch(addNets(plan, typed.circuits, typed.nets, typed.constraints))) {
      setText('');
      const first = typed.nets[0];
      if (first) select({ kind: 'net', id: first.id });
    }
  }

  // One line in a pass, so that each is read in the plan that holds the nets of the lines before it.
  const late = useRef(addFirst);
  late.current = addFirst;
  const [first] = waiting;
  useEffect(() => {
    if (reader && first) late.current(reader, first.line);
  }, [reader, first]);

  /** Adds the first line that had to wait; one that is not right comes back into the field. */
  function addFirst({ parseTypedNets }: Reader, line: string) {
    setWaiting(waiting.slice(1));
    const read = parseTypedNets(line, plan, device.description, joins, newId);
    const right = read.marks.length === 0 && read.nets.length > 0;
    if (!right || !dispatch(addNets(plan, read.circuits, read.nets, read.constraints))) {
      setText((now) => (now.trim() === '' ? line : `${line}\n${now}`));
      return;
    }
    const [net] = read.nets;
    if (net) select({ kind: 'net', id: net.id });
  }

  function mend(mark: TypedMark, suggestion: Suggestion) {
    const next = `${text.slice(0, mark.from)}${suggestion.text}${text.slice(mark.to)}`;
    setText(next);
    const at = mark.from + suggestion.text.length;
    requestAnimationFrame(() => {
      field.current?.focus();
      field.current?.setSelectionRange(at, at);
    });
  }

  // The plan as it was when all were to be placed: begun as soon as the nets that are being added are there.
  const [placingAfter, setPlacingAfter] = useState<typeof plan | null>(null);
  useEffect(() => {
    if (placingAfter === null || placingAfter === plan || first) return;
    setPlacingAfter(null);
    select(null);
    placer.start();
  }, [placingAfter, plan, first, select, placer]);

  function onKeyDown(event: KeyboardEvent) {
    if (event.key === 'Enter' && !event.shiftKey) {
      event.preventDefault();
      add();
      if (!(event.ctrlKey || event.metaKey) || (typed && !ready)) return;
      (event.target as HTMLElement).blur();
      if (text.trim() !== '') setPlacingAfter(plan);
      else if (plan.nets.length > 0) placer.start();
    }
    if (event.key === 'Escape') {
      setText('');
      (event.target as HTMLElement).blur();
    }
  }

  return (
    <div className="border-t border-rule px-3 py-2">
      {waiting.length > 0 && (
        <div className="mb-1.5 text-[12px] text-soft" role="status">
          {waiting.length} entered, being read
        </div>
      )}
      {typed && (
        <div id={help} className="mb-1.5 max-h-56 overflow-auto text-[12px]" aria-live="polite">
          <Preview typed={typed} />
          {typed.marks.map((mark) => (
            <div key={`${mark.from} ${mark.message}`} className="py-0.5">
              <span className="text-warn">{mark.message}</span>{' '}
              {mark.suggestions.map((suggestion) => (
                <button
                  key={suggestion.label}
                  type="button"
                  className="button m mr-1 px-1.5 py-0"
                  onClick={() => mend(mark, suggestion)}
                >
                  {suggestion.label}
                </button>
              ))}
            </div>
          ))}
          {circuit && hasLoose(text) && (
            <label className="flex items-center gap-1.5">
              <input
                type="checkbox"
                checked={joining}
                onChange={(event) => setJoining(event.target.checked)}
              />
              those without a circuit join {circuit.name}
            </label>
          )}
          <div className="text-soft">
            {ready
              ? `Enter adds ${typed.nets.length}, with Ctrl it places all`
              : typed.marks.length > 0
                ? 'Nothing is added before the line is right'
                : 'Nothing to add yet'}{' '}
            · words: {reader?.ROLE_WORDS}
          </div>
        </div>
      )}
      <div className="flex items-start gap-1">
        <span className="relative w-full">
          <textarea
            ref={field}
            id="add-nets"
            aria-label="New nets"
            aria-describedby={typed ? help : undefined}
            aria-invalid={typed !== null && typed.marks.length > 0}
            rows={1}
            spellCheck={false}
            className="typed-nets field-sizing-content max-h-24 w-full resize-none border-dashed"
            placeholder="mast: uart tx rx · de out low"
            value={text}
            onChange={(event) => setText(event.target.value)}
            onFocus={load}
            onKeyDown={onKeyDown}
            onScroll={(event) => {
              const shadow = event.currentTarget.nextElementSibling;
              if (shadow) shadow.scrollTop = event.currentTarget.scrollTop;
            }}
          />
          <Marked text={text} marks={typed?.marks ?? []} />
        </span>
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

/** Whether a line names no circuit of its own. */
const hasLoose = (text: string): boolean =>
  text.split('\n').some((line) => line.trim() !== '' && !line.includes(':') && !line.includes('\t'));

/** The typed text once more, under the field and letter upon letter, with a wave under what is not understood. */
function Marked({ text, marks }: { text: string; marks: readonly TypedMark[] }) {
  const pieces: { text: string; at: number; wrong: boolean }[] = [];
  let at = 0;
  for (const { from, to } of [...marks].sort((a, b) => a.from - b.from)) {
    if (from < at) continue;
    pieces.push(
      { text: text.slice(at, from), at, wrong: false },
      { text: text.slice(from, to), at: from, wrong: true },
    );
    at = to;
  }
  pieces.push({ text: text.slice(at), at, wrong: false });
  return (
    <span aria-hidden className="typed-marks">
      {pieces.map((piece) =>
        piece.wrong ? (
          <mark key={piece.at} data-testid="typed-mark">
            {piece.text}
          </mark>
        ) : (
          piece.text
        ),
      )}
    </span>
  );
}

/** What will be added, circuit by circuit. */
function Preview({ typed }: { typed: TypedNets }) {
  const { derived } = useDerived();
  const { plan } = derived;
  const circuits = new Map<string, Net[]>();
  for (const net of typed.nets) circuits.set(net.circuit, [...(circuits.get(net.circuit) ?? []), net]);
  const all = [...plan.circuits, ...typed.circuits];
  return [...circuits].map(([id, nets]) => (
    <div key={id}>
      <div className="text-soft">
        {all.find((one) => one.id === id)?.name}
        {typed.circuits.some((one) => one.id === id) ? ' · new circuit' : ' · joins it'}
      </div>
      {nets.slice(0, MOST_SHOWN).map((net) => (
        <div key={net.id} className="pl-2">
          <span className="font-medium">{net.name}</span>
          <span className="ml-2 text-soft">{netWords(net, typed).join(' · ')}</span>
        </div>
      ))}
      {nets.length > MOST_SHOWN && <div className="pl-2 text-soft">and {nets.length - MOST_SHOWN} more</div>}
    </div>
  ));
}

const MOST_SHOWN = 40;

/** All that was understood of a net. */
function netWords(net: Net, typed: TypedNets): string[] {
  const { role, settings, placement } = net;
  const words = [roleText(role)];
  // Which edge interrupts follows from the active level where nobody says it; said, so that nobody is surprised.
  if (role.kind === 'interrupt' && settings.trigger === undefined)
    words.push(
      settings.active === 'low' ? 'on the falling edge, as it is asserted low' : 'on the rising edge',
    );
  else if (settings.trigger !== undefined)
    words.push(settings.trigger === 'both' ? 'on both edges' : `on ${settings.trigger}`);
  if (settings.active !== undefined) words.push(`asserted ${settings.active}`);
  if (settings.start === 'asserted') words.push('starts asserted');
  if (settings.pull !== undefined) words.push(`pull ${settings.pull}`);
  if (settings.outputType !== undefined) words.push(settings.outputType);
  for (const [key, value] of Object.entries(settings))
    if (key.startsWith('own.')) words.push(`${key.slice(4)} ${value}`);
  if (placement) words.push(`on ${placement.pad}`);
  append(words, demandWords(net));
  for (const constraint of typed.constraints)
    if (constraint.nets.includes(net.id)) words.push(CONSTRAINT_WORDS[constraint.kind]);
  return words;
}

/** Figures that were typed, as they were understood. */
function demandWords({ demands }: Net): string[] {
  if (!demands) return [];
  const words: string[] = [];
  if (demands.rateHertz !== undefined) words.push(hertzText(demands.rateHertz));
  if (demands.format !== undefined) words.push(formatText(demands.format));
  if (demands.milliamps !== undefined) words.push(currentText(demands.milliamps));
  if (demands.farVolts !== undefined) words.push(voltsText(demands.farVolts));
  if (demands.farPull === 'driven') words.push('driven');
  else if (demands.farPull !== undefined) words.push(`pulled ${demands.farPull}`);
  return words;
}

/** Usual circuits, put into the field as if they had been typed. */
function Templates({ onChoose }: { onChoose: (text: string) => void }) {
  const { derived } = useDerived();
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
