'use client';

import { memo } from 'react';
import { hexText } from '@/core/base/text/hex';
import type { Plan } from '@/core/plan/model/types';
import type { BitRun, LensRegister, RunKind } from '@/core/read-back/lens';
import { circuitColour } from '../parts/circuit-colour';
import { bitsId, bitsText } from './bits';

/** Width of the ribbon, and the most that one bit takes of it, in pixels. */
const RIBBON = 480;
const WIDEST_BIT = 30;
/** Advance of a digit. */
const DIGIT = 7.2;

export const widthOfBit = (bits: number): number => Math.min(WIDEST_BIT, RIBBON / bits);

const KIND_WORDS: Record<RunKind, string> = {
  planned: 'planned',
  statement: 'set by a step',
  unplanned: 'not planned',
  unknown: 'no pad’s',
  reserved: 'reserved',
  'read-only': 'read only',
};

interface Props {
  row: LensRegister;
  plan: Plan;
  /** Address as it is to be shown. */
  address: number;
  /** Whose bits are lit. */
  pad: string | undefined;
  /** The run, or the whole register, that is selected. */
  selected: { run?: number } | undefined;
  /** The run that Tab leads to; -1 for the name. */
  tab: number | undefined;
  onSelect(id: string): void;
}

/** A register: its name and address, its bits with their owners, what it holds after reset and as planned. */
export const RegisterRow = memo(function RegisterRow({
  row,
  plan,
  address,
  pad,
  selected,
  tab,
  onSelect,
}: Props) {
  const { register, reset, planned, offset } = row;
  const width = widthOfBit(register.bits);
  return (
    <div
      className={`relative grid grid-cols-[136px_480px_1fr] gap-x-3 px-3.5 py-1 ${selected ? 'bg-sheet' : ''}`}
    >
      <div>
        <button
          type="button"
          data-bits={bitsId(row)}
          tabIndex={tab === -1 ? 0 : -1}
          aria-pressed={selected !== undefined && selected.run === undefined}
          title={`${register.title || register.name}, ${register.bits} bits`}
          className={`block max-w-full text-left hover:underline ${selected && selected.run === undefined ? 'bg-pickbg' : ''}`}
          onClick={() => onSelect(bitsId(row))}
        >
          <b className="m block font-semibold">{register.name}</b>
        </button>
        <span className="m block text-[11px] leading-[14px] text-soft">
          {row.register.access.kind === 'internal'
            ? 'no address'
            : hexText(address, address > 0xffff ? 32 : 16)}
        </span>
        <span
          className="m block text-[11px] leading-[14px] text-soft"
          title="Offset in its block, hexadecimal and decimal"
        >
          {register.access.kind !== 'internal' && `+${hexText(offset, 8)} · +${offset}`}
        </span>
      </div>
      <div className="flex">
        {row.runs.map((run) => (
          <Run
            key={run.low}
            row={row}
            run={run}
            plan={plan}
            width={width}
            lit={pad !== undefined && run.pad === pad}
            selected={selected?.run === run.low}
            tab={tab === run.low}
            onSelect={onSelect}
          />
        ))}
      </div>
      <div className="m justify-self-end text-right text-[12px] leading-[16px]">
        <span className="block text-soft" title="After reset">
          <span className="sr-only">after reset </span>
          {hexText(reset, register.bits)}
        </span>
        <span className={`block ${planned === reset ? 'text-soft' : 'font-semibold'}`} title="As planned">
          <span className="sr-only">as planned </span>
          {hexText(planned, register.bits)}
        </span>
      </div>
    </div>
  );
});

interface RunProps {
  row: LensRegister;
  run: BitRun;
  plan: Plan;
  width: number;
  lit: boolean;
  selected: boolean;
  tab: boolean;
  onSelect(id: string): void;
}

const digitsOf = (value: number, { low, bits }: BitRun): string =>
  Array.from({ length: bits }, (_, k) =>
    Math.floor(value / 2 ** (low + bits - 1 - k)) % 2 === 0 ? '0' : '1',
  ).join('');

/** Bits that differ from reset get a ground of their own, each. */
function changedGround(digits: string, before: string, width: number): string | undefined {
  const stops = [...digits].flatMap((digit, k) => {
    if (digit === before[k]) return [];
    const [from, to] = [k * width, (k + 1) * width];
    return [`transparent ${from}px, var(--pickbg) ${from}px, var(--pickbg) ${to}px, transparent ${to}px`];
  });
  return stops.length === 0 ? undefined : `linear-gradient(90deg, ${stops.join(', ')})`;
}

function Run({ row, run, plan, width, lit, selected, tab, onSelect }: RunProps) {
  const { kind, one, pad, bits } = run;
  const digits = digitsOf(row.planned, run);
  const owned = kind === 'planned' || kind === 'unplanned';
  const net = kind === 'planned' ? one?.net : undefined;
  const room = bits * width;
  const owner = owned ? (pad ?? '') : kind === 'statement' ? 'step' : '';
  const words = [
    `${row.register.name} ${bitsText(run)}`,
    owned ? `pad ${pad}${net ? `, ${net.name}` : ''}, ${run.field}` : '',
    KIND_WORDS[kind],
    `${digits}, after reset ${digitsOf(row.reset, run)}`,
  ];
  const hatched = kind === 'unknown' || kind === 'reserved' || kind === 'read-only';
  return (
    <button
      type="button"
      data-bits={bitsId(row, run)}
      {...(pad === undefined ? {} : { 'data-bits-of': pad })}
      tabIndex={tab ? 0 : -1}
      aria-pressed={selected}
      aria-label={words.filter(Boolean).join(': ')}
      title={words.filter(Boolean).join('\n')}
      style={{ width: room }}
      className={`flex shrink-0 flex-col justify-start overflow-hidden border-r text-left ${kind === 'planned' ? 'border-soft' : 'border-rule'} ${
        selected ? 'outline outline-[1.5px] -outline-offset-1 outline-pick' : ''
      } ${lit ? 'bg-pickbg' : ''}`}
      onClick={() => onSelect(bitsId(row, run))}
    >
      <span
        aria-hidden
        className="block h-[3px]"
        style={{ background: net ? circuitColour(plan, net.circuit) : 'transparent' }}
      />
      <span
        aria-hidden
        className={`m block whitespace-nowrap text-[12px] leading-[17px] ${kind === 'planned' || kind === 'statement' ? 'font-medium' : 'text-soft'} ${
          hatched ? 'hatched' : ''
        }`}
        style={{
          letterSpacing: width - DIGIT,
          paddingLeft: (width - DIGIT) / 2,
          background:
            kind === 'planned' || kind === 'statement'
              ? changedGround(digits, digitsOf(row.reset, run), width)
              : undefined,
        }}
      >
        {digits}
      </span>
      <span
        aria-hidden
        className={`block overflow-hidden whitespace-nowrap text-center text-[10.5px] leading-[15px] ${
          net ? '' : 'text-soft'
        } ${selected || lit ? 'font-semibold' : ''}`}
      >
        {owner.length * 6 <= room ? owner : ' '}
        {net && room > 62 + owner.length * 6 ? ` ${net.name}` : ''}
      </span>
    </button>
  );
}
