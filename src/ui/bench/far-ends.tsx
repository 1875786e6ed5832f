'use client';

import { type KeyboardEvent, memo, useEffect, useRef } from 'react';
import { stateWords, voltsWords } from '@/core/bench/engine/explain';
import type { BenchPart } from '@/core/bench/engine/wiring';
import { nameText } from '@/core/bench/script/names';
import { byOf, CONTENTION, FLOATING, HIGH, levelOf } from '@/core/bench/trace/lanes';
import { attachmentMeta } from '@/core/plan/model/attachments';
import type { Net } from '@/core/plan/model/types';
import { circuitColour } from '../parts/circuit-colour';
import { walkTo } from '../parts/walk';
import { useActions, useDerived, useSelection } from '../workspace/context';
import { type BenchStore, useBenchVersion } from './bench-store';
import { AttachmentSign } from './symbols';

/** What a row shows; equal looks are not drawn again. */
interface Look {
  name: string;
  pad: string;
  state: string;
  bad: boolean;
  volts: string;
  colour: string;
  selected: boolean;
  parts: readonly PartLook[];
  /** What a click on the state does, in the words of a script. */
  drive: string | undefined;
}

interface PartLook {
  kind: BenchPart['attachment']['kind'];
  word: string;
  on: boolean;
  lit: number;
  up: boolean;
  /** Follows from the net's role, name and settings; nobody has said it. */
  assumed: boolean;
  /** What a click does. */
  click: string | undefined;
}

/** Every net with what its pad is electrically and what sits at its far end; all of it can be played with. */
export function FarEnds({ store }: { store: BenchStore }) {
  useBenchVersion(store);
  const { derived } = useDerived();
  const { selectedNet } = useSelection();
  const { select } = useActions();
  const list = useRef<HTMLUListElement>(null);
  const { plan } = derived;
  const nets = plan.circuits.flatMap((circuit) =>
    plan.nets.filter(
      (net) => net.circuit === circuit.id && store.recording.play.bench.setup.byNet.has(net.id),
    ),
  );
  const selectedId = selectedNet?.id;
  useEffect(() => {
    if (selectedId !== undefined)
      list.current
        ?.querySelector(`[data-far="${CSS.escape(selectedId)}"]`)
        ?.scrollIntoView({ block: 'nearest' });
  }, [selectedId]);
  const tabStop = nets.find((net) => net.id === selectedNet?.id)?.id ?? nets[0]?.id;

  function onKeyDown(event: KeyboardEvent) {
    const name = (event.target as HTMLElement).closest<HTMLElement>('[data-far]');
    const at = nets.findIndex((net) => net.id === name?.dataset.far);
    if (at < 0) return;
    if (event.key === ' ') {
      event.preventDefault();
      name?.closest('li')?.querySelector<HTMLElement>('[data-act]')?.click();
      return;
    }
    const next = walkTo(event, { row: at, column: 0 }, { rows: nets.length, columns: 1 });
    const chosen = next && nets[next.row];
    if (!chosen) return;
    select({ kind: 'net', id: chosen.id });
    list.current?.querySelector<HTMLElement>(`[data-far="${CSS.escape(chosen.id)}"]`)?.focus();
  }

  if (nets.length === 0)
    return (
      <p className="max-w-prose p-4 text-soft">
        No net has a pad yet. Place the nets, and what sits at their far ends stands here to be played with:
        buttons, LEDs, drivers, sensors.
      </p>
    );
  const isAssumed = store.recording.play.bench.setup.parts.some(({ attachment }) => attachment.assumed);
  return (
    <>
      {isAssumed && (
        <p className="px-3.5 pt-1 text-soft">
          Dashed: assumed from the net’s role, name and settings. Select the net to say what is there.
        </p>
      )}
      <ul
        ref={list}
        aria-label="Nets and their far ends"
        className="grid grid-cols-[repeat(auto-fill,minmax(345px,1fr))] gap-x-[18px] px-3.5 py-1"
        onKeyDown={onKeyDown}
      >
        {nets.map((net) => (
          <FarRow
            key={net.id}
            id={net.id}
            look={lookOf(store, net, circuitColour(plan, net.circuit), net.id === selectedNet?.id)}
            tabStop={net.id === tabStop}
            store={store}
            onSelect={select}
          />
        ))}
      </ul>
    </>
  );
}

function lookOf(store: BenchStore, net: Net, colour: string, selected: boolean): Look {
  const { setup, state } = store.recording.play.bench;
  const index = setup.byNet.get(net.id) ?? -1;
  const code = state.codes[index] as number;
  const pad = state.states[index];
  const { amperes } = store.recording.play.bench;
  const activeLow = net.settings.active === 'low';
  const name = nameText(net.name);
  const level = levelOf(code);
  const isActive = (level === HIGH) !== activeLow;
  const parts = (setup.partsAt.get(net.id) ?? []).flatMap((at): PartLook[] => {
    const part = setup.parts[at];
    // A part at several nets is drawn at its first one.
    if (!part || part.attachment.nets[0] !== net.id) return [];
    const { kind } = part.attachment;
    const look = part.attached.look(amperes);
    return [
      {
        kind,
        word: look.word,
        on: look.on === true,
        lit: look.lit ?? 0,
        up: kind === 'button' || kind === 'tipping-contact' ? !activeLow : activeLow,
        assumed: part.attachment.assumed === true,
        click: clickOn(kind, name, look.on === true, activeLow, look.word),
      },
    ];
  });
  const drives = pad?.output === 'low' || pad?.output === 'high';
  return {
    name: net.name,
    pad: net.placement?.pad ?? '',
    state: pad?.output === 'peripheral' && level > FLOATING ? 'peripheral' : stateWords(code),
    bad: byOf(code) === CONTENTION,
    volts: voltsWords(state.volts[index] as number),
    colour,
    selected,
    parts,
    drive: drives ? `${name} ${isActive ? 'off' : 'on'}` : undefined,
  };
}

/** What a click on something attached does. */
function clickOn(
  kind: PartLook['kind'],
  name: string,
  on: boolean,
  activeLow: boolean,
  word: string,
): string | undefined {
  switch (kind) {
    case 'button':
      return on ? `release ${name} bounce` : `press ${name} bounce`;
    case 'tipping-contact':
      return `tip ${name} bounce`;
    case 'driven-line':
      return `${name} ${word.includes(activeLow ? 'low' : 'high') ? 'off' : 'on'}`;
    case 'bus-partner':
      return `${name} ${word === 'low' ? 'free' : 'low'}`;
    case 'encoder':
      return `turn ${name} 1`;
    default:
      return undefined;
  }
}

interface RowProps {
  id: string;
  look: Look;
  tabStop: boolean;
  store: BenchStore;
  onSelect: (selection: { kind: 'net'; id: string }) => void;
}

const FarRow = memo(
  function FarRow({ id, look, tabStop, store, onSelect }: RowProps) {
    const main =
      look.parts.find((one) => one.kind !== 'pull-up' && one.kind !== 'pull-down') ?? look.parts[0];
    const others = look.parts.filter((one) => one !== main);
    return (
      <li
        className={`grid h-[27px] grid-cols-[4px_minmax(0,1fr)_28px_70px_84px_54px] items-center gap-[5px] whitespace-nowrap border-b border-rule ${look.selected ? 'bg-pickbg' : ''}`}
      >
        <i className="block h-4 w-1" style={{ background: look.colour }} />
        <button
          type="button"
          data-far={id}
          aria-pressed={look.selected}
          tabIndex={tabStop ? 0 : -1}
          className="h-6 overflow-hidden text-ellipsis text-left font-medium hover:underline"
          onClick={() => onSelect({ kind: 'net', id })}
        >
          {look.name}
        </button>
        <span className="m text-soft">{look.pad}</span>
        {look.drive === undefined ? (
          <span className={look.bad ? 'text-err' : ''} title={look.volts}>
            {look.state}
          </span>
        ) : (
          <button
            type="button"
            tabIndex={-1}
            data-act=""
            className={`h-6 text-left underline decoration-rule decoration-dotted underline-offset-2 hover:decoration-ink ${look.bad ? 'text-err' : ''}`}
            title={`${look.volts}. Click: ${look.drive}`}
            onClick={() => store.play(look.drive ?? '')}
          >
            {look.state}
          </button>
        )}
        <Sign part={main} store={store} />
        <span
          className="m overflow-hidden text-ellipsis text-right tracking-tight"
          title={[main, ...others]
            .map(
              (part) =>
                part && `${attachmentMeta(part.kind).title}${part.assumed ? ', assumed' : ''}: ${part.word}`,
            )
            .filter(Boolean)
            .join('; ')}
        >
          {main?.word ?? '–'}
        </span>
      </li>
    );
  },
  (before, after) =>
    before.id === after.id &&
    before.tabStop === after.tabStop &&
    before.store === after.store &&
    JSON.stringify(before.look) === JSON.stringify(after.look),
);

function Sign({ part, store }: { part: PartLook | undefined; store: BenchStore }) {
  if (!part) return <span className="text-soft" />;
  const sign = (
    <AttachmentSign kind={part.kind} on={part.on} lit={part.lit} up={part.up} assumed={part.assumed} />
  );
  if (part.click === undefined) return <span className="block h-[22px]">{sign}</span>;
  return (
    <button
      type="button"
      tabIndex={-1}
      data-act=""
      className="block h-6 hover:bg-pickbg"
      title={`Click: ${part.click}`}
      aria-label={part.click}
      onClick={() => store.play(part.click ?? '')}
    >
      {sign}
    </button>
  );
}
