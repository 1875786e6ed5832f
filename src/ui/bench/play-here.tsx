'use client';

import { useState } from 'react';
import { valueText } from '@/core/bench/engine/firmware';
import { levelsOf } from '@/core/bench/script/conditions';
import { namesIn, nameText, type Target } from '@/core/bench/script/names';
import { attachmentMeta } from '@/core/plan/model/attachments';
import type { Net } from '@/core/plan/model/types';
import type { BenchStore } from './bench-store';

/** What can be done to a net: by the firmware, and at its far end. Every button is a line of a script. */
export function PlayHere({ store, net }: { store: BenchStore; net: Net }) {
  const names = namesIn(store.recording.derived);
  const target = names.byId.get(net.id);
  const { setup, state } = store.recording.play.bench;
  const at = setup.byNet.get(net.id) ?? -1;
  const name = nameText(net.name);
  const parts = (setup.partsAt.get(net.id) ?? []).flatMap((one) => setup.parts[one] ?? []);
  const isPeripheral = state.states[at]?.output === 'peripheral';
  const firmware = [
    ...(target?.driven ? [`${name} on`, `${name} off`, `${name} toggle`] : []),
    ...(target?.read ? [`read ${name}`] : []),
  ];
  const outside = parts.flatMap(({ attachment: { kind } }) => {
    switch (kind) {
      case 'button':
        return [`press ${name} 30 ms bounce`, `press ${name}`, `release ${name}`];
      case 'tipping-contact':
        return [`tip ${name} bounce`];
      case 'driven-line':
        return [`${name} high`, `${name} low`, `${name} free`];
      case 'bus-partner':
        return target?.driven ? [] : [`${name} low`, `${name} free`];
      case 'encoder':
        return [`turn ${name} 1`, `turn ${name} -1`];
      case 'analog-source':
        return [`${name} sine 10 Hz 0.5 V around 1.6 V`, `${name} noise 50 mV around 1.6 V`];
      default:
        return [];
    }
  });
  const peripheral = isPeripheral ? [`${name} high`, `${name} low`, `${name} free`] : [];
  const groups = names.targets.filter((one) => one.group && one.nets.includes(net.id));
  return (
    <section aria-label="Play" className="mt-1">
      <Lines store={store} title="firmware" name={name} lines={firmware} />
      <Lines store={store} title="peripheral" name={name} lines={peripheral} />
      <Lines store={store} title="far end" name={name} lines={outside} />
      {parts.some(({ attachment }) => attachment.kind === 'analog-source') && (
        <Slider
          key={`${net.id} volts`}
          label={`Voltage of the ${attachmentMeta('analog-source').title}`}
          most={setup.pads[at]?.supplyVolts ?? 3.3}
          unit="V"
          value={state.volts[at] as number}
          onSlide={(value) => store.play(`${name} = ${value} V`)}
        />
      )}
      {parts.some(({ attachment }) => attachment.kind === 'potentiometer') && (
        <Slider
          key={`${net.id} position`}
          label="Position of the potentiometer"
          most={100}
          unit="%"
          value={((state.volts[at] as number) / (setup.pads[at]?.supplyVolts ?? 3.3)) * 100}
          onSlide={(value) => store.play(`${name} = ${value} %`)}
        />
      )}
      {groups.map((group) => (
        <Group key={group.id} store={store} group={group} />
      ))}
    </section>
  );
}

function Lines({
  store,
  title,
  name,
  lines,
}: {
  store: BenchStore;
  title: string;
  name: string;
  lines: readonly string[];
}) {
  if (lines.length === 0) return null;
  return (
    <div className="mt-1 grid grid-cols-[72px_1fr] items-baseline">
      <span className="text-soft">{title}</span>
      <span className="flex flex-wrap gap-1">
        {lines.map((line) => (
          <button key={line} type="button" className="button" title={line} onClick={() => store.play(line)}>
            {shortened(line, name)}
          </button>
        ))}
      </span>
    </div>
  );
}

/** A line on a button: without the net that all of them are about, and without figures that stand in its hint. */
const shortened = (line: string, name: string): string =>
  line
    .replace(name, '')
    .replace(/\s+/g, ' ')
    .replace(/ (\d+ Hz|50 mV).*$/, ' …')
    .trim();

function Slider({
  label,
  most,
  unit,
  value,
  onSlide,
}: {
  label: string;
  most: number;
  unit: string;
  value: number;
  onSlide: (value: number) => void;
}) {
  const [held, setHeld] = useState<number | null>(null);
  const shown = held ?? (Number.isFinite(value) && value < 1000 ? value : 0);
  return (
    <div className="mt-1 grid grid-cols-[72px_1fr_56px] items-center">
      <span className="text-soft">{unit === 'V' ? 'voltage' : 'position'}</span>
      <input
        type="range"
        aria-label={label}
        min={0}
        max={most}
        step={most / 100}
        value={shown}
        onChange={(event) => setHeld(Number(event.target.value))}
        onPointerUp={() => commit()}
        onKeyUp={() => commit()}
        onBlur={() => commit()}
      />
      <span className="m text-right">
        {Number(shown.toPrecision(3))} {unit}
      </span>
    </div>
  );
  function commit() {
    if (held === null) return;
    onSlide(Number(held.toPrecision(3)));
    setHeld(null);
  }
}

/** Several nets as one number: what they are, and what the firmware writes. */
function Group({ store, group }: { store: BenchStore; group: Target }) {
  const [text, setText] = useState('');
  const now = levelsOf(store.recording.play.bench, group);
  const name = nameText(group.name);
  return (
    <form
      className="mt-1 grid grid-cols-[72px_1fr] items-center"
      onSubmit={(event) => {
        event.preventDefault();
        if (text.trim() !== '' && store.play(`${name} = ${text.trim()}`).problems.length === 0) setText('');
      }}
    >
      <span className="overflow-hidden text-ellipsis text-soft" title={group.name}>
        {group.name}
      </span>
      <span className="flex flex-wrap items-center gap-1">
        <span className="m">{now ? valueText(now, group.nets.length) : 'not on pads'}</span>
        {group.driven && (
          <>
            <input
              aria-label={`Write ${group.name}`}
              placeholder="0x…"
              className="m w-16 py-0.5"
              value={text}
              onChange={(event) => setText(event.target.value)}
            />
            <button type="submit" className="button">
              write
            </button>
          </>
        )}
        {group.read && (
          <button type="button" className="button" onClick={() => store.play(`read ${name}`)}>
            read
          </button>
        )}
      </span>
    </form>
  );
}
