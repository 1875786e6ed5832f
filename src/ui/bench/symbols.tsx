import type { ReactNode } from 'react';
import type { AttachmentKind } from '@/core/plan/model/attachments';

/** How something attached stands at the moment. */
interface Props {
  kind: AttachmentKind;
  on: boolean;
  lit: number;
  /** Towards the supply; towards ground otherwise. */
  up: boolean;
}

const GROUND = 'M84 6v10M87 8.500v5M90 10v2';
const SUPPLY = 'M85 4v14';

/** The rail that it leads to: a bar for the supply, three shorter ones for ground. */
const Rail = ({ up }: { up: boolean }) => <path d={up ? SUPPLY : GROUND} />;

const RESISTOR = 'l2-4 4 8 4-8 4 8 4-8 2 4';

/** Standard schematic signs, drawn from the pad at the left to the rail at the right. */
const SIGNS: Record<AttachmentKind, (look: Omit<Props, 'kind'>) => ReactNode> = {
  button: ({ on, up }) => (
    <>
      <path d={on ? 'M0 11h30l24 0M54 11h30' : 'M0 11h30l20-8M54 11h30'} />
      <circle cx="30" cy="11" r="1.8" className="fill-sheet" />
      <circle cx="54" cy="11" r="1.8" className="fill-sheet" />
      <path d="M42 2v3M38 1.500h8" />
      <Rail up={up} />
    </>
  ),
  'tipping-contact': ({ on, up }) => (
    <>
      <path d={on ? 'M0 11h30l24 0M54 11h30' : 'M0 11h30l20-8M54 11h30'} />
      <circle cx="30" cy="11" r="1.8" className="fill-sheet" />
      <circle cx="54" cy="11" r="1.8" className="fill-sheet" />
      <path d="M36 3c2-3 10-3 12 0z" />
      <Rail up={up} />
    </>
  ),
  encoder: ({ lit }) => (
    <>
      <circle cx="46" cy="11" r="9" />
      <path d="M0 11h37M46 11l5-6" />
      <path d={lit & 1 ? 'M64 7h10' : 'M64 7l9-3'} />
      <path d={lit & 2 ? 'M64 16h10' : 'M64 16l9-3'} />
    </>
  ),
  keypad: ({ on }) => (
    <>
      <path d="M0 11h26M32 2v18M44 2v18M56 2v18M26 5h36M26 11h36M26 17h36" />
      {on && <circle cx="44" cy="11" r="3" className="fill-ink" />}
    </>
  ),
  led: ({ on, up }) => (
    <>
      <path d={`M0 11h10${RESISTOR}h10`} />
      <path d={up ? 'M54 11l-12-7v14zM42 4v14' : 'M42 4v14l12-7zM54 4v14'} className={on ? 'fill-ink' : ''} />
      <path d="M54 11h30" />
      <path d="M50 3l4-3M55 4l4-3" className={on ? '' : 'opacity-40'} />
      <Rail up={up} />
    </>
  ),
  'led-bar': ({ lit, up }) => (
    <>
      <path d="M0 11h16M64 11h20" />
      {[0, 1, 2, 3, 4, 5, 6, 7].map((bit) => (
        <rect
          key={bit}
          x={16 + bit * 6}
          y="4"
          width="4.5"
          height="14"
          className={(lit >>> bit) & 1 ? 'fill-ink' : ''}
        />
      ))}
      <Rail up={up} />
    </>
  ),
  'seven-segments': ({ lit }) => (
    <>
      <path d="M0 11h30" />
      {SEGMENTS.map((d, bit) => (
        <path key={d} d={d} strokeWidth={(lit >>> bit) & 1 ? 2.6 : 0.6} />
      ))}
    </>
  ),
  contactor: ({ on, up }) => (
    <>
      <path
        d={up ? 'M0 11h18M18 5v12M18 9l10-6V0M18 13l10 6v3' : 'M0 11h18M18 5v12M18 9l10-6V0M18 13l10 6v3'}
      />
      <path d={up ? 'M24.5 8.500l-3.5-1.400 2.600-2.200' : 'M27.5 18.600l-3.800-.4 2-3'} />
      <path d="M28 3h10M28 19h2" className="opacity-0" />
      <rect x="38" y="5" width="16" height="12" className={on ? 'fill-ink' : ''} />
      <path d="M28 2h18v3M46 17v4" />
      <path d={on ? 'M62 11h8l12 0M82 11h6' : 'M62 11h8l11-6M82 11h6'} />
    </>
  ),
  coil: ({ on, up }) => (
    <>
      <path d="M0 11h24" />
      <rect x="24" y="4" width="22" height="14" className={on ? 'fill-ink' : ''} />
      <path d="M46 11h38" />
      <Rail up={up} />
    </>
  ),
  load: ({ on, up }) => (
    <>
      <path d="M0 11h26M58 11h26" />
      <rect x="26" y="5" width="32" height="12" className={on ? 'fill-ink' : ''} />
      <Rail up={up} />
    </>
  ),
  'driven-line': ({ on }) => (
    <>
      <path d="M0 11h28" />
      <path d="M50 3v16L28 11z" className={on ? 'fill-ink' : ''} />
      <path d="M50 11h16" />
    </>
  ),
  'bus-partner': ({ on }) => (
    <>
      <path d="M0 11h44M44 5v12M44 7h10V2M44 15h10v5" />
      <path d="M50 20h8M52 22h4" />
      {on && <circle cx="44" cy="11" r="3" className="fill-ink" />}
    </>
  ),
  'analog-source': ({ up: _up }) => (
    <>
      <path d="M0 11h36" />
      <circle cx="46" cy="11" r="9" />
      <path d="M40 11c2-6 4-6 6 0s4 6 6 0" />
      <path d="M55 11h29" />
      <path d={GROUND} />
    </>
  ),
  potentiometer: () => (
    <>
      <path d="M0 11h34M34 11l-4-2.500M34 11l-4 2.5" />
      <rect x="35" y="2" width="8" height="18" />
      <path d="M39 2V0M39 20v2" />
    </>
  ),
  'pull-up': () => (
    <>
      <path d={`M0 11h24${RESISTOR}h40`} />
      <path d={SUPPLY} />
    </>
  ),
  'pull-down': () => (
    <>
      <path d={`M0 11h24${RESISTOR}h40`} />
      <path d={GROUND} />
    </>
  ),
  terminator: () => (
    <>
      <path d="M0 11h28" />
      <rect x="28" y="6" width="26" height="10" />
      <path d="M54 11h30" />
    </>
  ),
  capacitor: () => (
    <>
      <path d="M0 11h40M40 3v16M46 3v16M46 11h38" />
      <path d={GROUND} />
    </>
  ),
  crystal: () => (
    <>
      <path d="M0 11h34M34 4v14M58 4v14M58 11h26" />
      <rect x="39" y="4" width="14" height="14" />
    </>
  ),
};

const SEGMENTS = [
  'M38 1.500h16',
  'M55 2.500v8',
  'M55 12v8',
  'M38 20.500h16',
  'M37 12v8',
  'M37 2.500v8',
  'M38 11h16',
];

/** The sign of something attached, as it stands; dashed where nobody has said that it is there. */
export function AttachmentSign({ kind, assumed, ...look }: Props & { assumed: boolean }) {
  return (
    <svg
      viewBox="0 0 92 22"
      width="84"
      height="20"
      aria-hidden
      fill="none"
      stroke="currentColor"
      strokeLinecap={assumed ? 'butt' : 'round'}
      strokeDasharray={assumed ? '2.5 1.5' : undefined}
      strokeLinejoin="round"
      className="shrink-0"
    >
      {SIGNS[kind](look)}
    </svg>
  );
}
