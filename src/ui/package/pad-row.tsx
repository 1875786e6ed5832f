'use client';

import { memo } from 'react';
import type { ResolvedNet } from '@/core/derive/resolve/resolve';
import type { Pad } from '@/core/description/types';
import type { PlainRole } from '@/core/plan/model/types';
import { StateGlyph } from '../parts/state-glyph';
import { OthersAt } from '../review/people';
import { dragNet } from './drag-net';
import { KIND_WORDS, padState } from './pad-state';
import { FRESH_SIGN, FRESH_WORDS, type PadLook } from './use-pad-looks';

export interface PadRowProps extends PadLook {
  pin: string;
  pad: Pad;
  tabStop: boolean;
  /** What a free pad could carry, where there is room to say it. */
  offers: string;
}

/** One pin of the unfolded package. Memoised: an edit redraws the rows it touches, not a hundred. */
export const PadRow = memo(function PadRow(props: PadRowProps) {
  const { pin, pad, nets, finding, selected, rank, back } = props;
  const first = nets[0];
  const fixed = pad.kind !== 'io';
  const state = padState(pad, nets, finding);
  const bad = finding?.severity === 'error';
  return (
    // biome-ignore lint/a11y/useKeyWithClickEvents: the list around the rows handles keys for all of them
    <div
      role="option"
      aria-selected={selected}
      aria-label={padLabel(props)}
      tabIndex={props.tabStop ? 0 : -1}
      data-pad={pad.id}
      data-pin={pin}
      {...dragNet(pad.id, first?.net.id, props.onDropNet)}
      className={`grid max-h-9 min-h-[22px] flex-1 cursor-pointer grid-cols-[4px_22px_minmax(32px,auto)_1fr_auto] items-center gap-1 overflow-hidden whitespace-nowrap border-b border-rule pr-0.5 ${
        selected ? 'bg-pickbg shadow-[inset_0_0_0_1px_var(--pick)]' : rank !== undefined ? 'bg-pickbg' : ''
      } ${fixed && !first ? 'hatched' : ''} ${back && !selected ? 'text-soft' : ''}`}
      onClick={() => props.onSelect(pad.id)}
    >
      <span className="h-full" style={{ background: props.colour }} />
      <span className="m text-right text-soft">{pin}</span>
      <span className={`m ${first && !back ? '' : 'text-soft'}`}>{pad.id}</span>
      <span className="flex min-w-0 items-baseline gap-1 overflow-hidden">
        {rank !== undefined && (
          <span className="m shrink-0 bg-pick px-1 text-[11px] leading-[15px] text-onpick">{rank}</span>
        )}
        {props.fresh && (
          <span className="m shrink-0 text-pick" title={FRESH_WORDS[props.fresh]}>
            {FRESH_SIGN[props.fresh]}
          </span>
        )}
        {first ? (
          // The name keeps its whole width as long as there is any. What it is stands beside it whole, or not at all: what does
          // not fit wraps to a second line, which is out of sight.
          <span className="flex h-[18px] min-w-0 flex-1 flex-wrap content-start items-baseline gap-x-1 overflow-hidden leading-[18px]">
            <span
              className={`max-w-full shrink-0 overflow-hidden text-ellipsis font-medium ${bad ? 'text-err' : props.fresh ? 'text-pick' : ''}`}
            >
              {nets.map((one) => one.net.name).join(' + ')}
            </span>
            <span className="shrink-0 text-[11.5px] leading-[18px] text-soft">{functionWords(first)}</span>
            {moreWords(first).map((words) => (
              <span
                key={words}
                className="hidden shrink-0 text-[11.5px] leading-[18px] text-soft @[17rem]/edge:inline"
              >
                · {words}
              </span>
            ))}
          </span>
        ) : (
          <span className="flex min-w-0 gap-1.5 overflow-hidden text-soft">
            {KIND_WORDS[pad.kind] ?? (pad.boot ? pad.boot.kind : '')}
            {props.offers !== '' && (
              <span className="hidden overflow-hidden text-ellipsis text-[11.5px] @[15rem]/edge:inline">
                {props.offers}
              </span>
            )}
          </span>
        )}
      </span>
      <span className="flex items-center text-[12px] text-soft">
        <OthersAt net={first?.net.id} pad={pad.id} />
        {first && <span className="m text-[11px]">{settingMarks(first)}</span>}
        <StateGlyph state={state} severity={finding?.severity} />
      </span>
    </div>
  );
});

/** Settings in words, where a row has the room: those that differ from what the part does by itself come first. */
function moreWords(one: ResolvedNet): string[] {
  const values = one.planned?.settings.values;
  if (!values) return [];
  const words: string[] = [];
  if (values.pull !== undefined && one.meant?.pull !== 'none' && values.mode !== 'analog')
    words.push(`pull ${values.pull}`);
  if (values.drive !== undefined && values.mode !== 'input') words.push(values.drive);
  if (values.trigger !== undefined && one.meant?.trigger !== 'none') words.push(values.trigger);
  const { part, connector } = one.net.far ?? {};
  if (part || connector) words.push([part, connector].filter(Boolean).join(' '));
  return words;
}

/** What the net is on this pad, in a word or two. */
export function functionWords(one: ResolvedNet): string {
  if (one.fn) return one.fn.signal;
  const { role } = one.net;
  switch (role.kind) {
    case 'signal':
      return role.signal;
    case 'open-signal':
      return `${role.peripheral}.${role.line}`;
    default:
      return SHORT_ROLES[role.kind];
  }
}

const SHORT_ROLES: Record<PlainRole, string> = {
  input: 'in',
  output: 'out',
  bidirectional: 'in, out',
  'open-drain': 'line',
  interrupt: 'irq',
  analog: 'analog',
  'analog-output': 'analog out',
};

/** Settings that matter at a glance: pull, open-drain, how an output starts. */
function settingMarks(one: ResolvedNet): string {
  const values = one.planned?.settings.values;
  if (!values) return '';
  const marks: string[] = [];
  if (one.meant?.pull === 'up' && values.mode !== 'analog') marks.push('↑');
  if (one.meant?.pull === 'down' && values.mode !== 'analog') marks.push('↓');
  if (one.meant?.outputType === 'open-drain') marks.push('od');
  if (values.mode === 'output') marks.push(values.level === 'high' ? 'H' : 'L');
  return marks.join(' ');
}

/** A pad in words, for those who do not see it. */
export function padLabel({ pin, pad, nets, finding, rank, fresh }: PadLabelled): string {
  const parts = [`pin ${pin}`, `pad ${pad.id}`];
  if (nets.length > 0) parts.push(nets.map((one) => `${one.net.name} ${functionWords(one)}`).join(' and '));
  else parts.push(KIND_WORDS[pad.kind] ?? 'free');
  if (fresh) parts.push(FRESH_WORDS[fresh]);
  if (rank !== undefined) parts.push(`choice ${rank}`);
  if (finding) parts.push(`${finding.severity}: ${finding.rule}`);
  return parts.join(', ');
}

type PadLabelled = Pick<PadRowProps, 'pin' | 'pad' | 'nets' | 'finding' | 'rank' | 'fresh'>;
