'use client';

import { hexText } from '@/core/base/text/hex';
import { registerText } from '@/core/bench/engine/explain';
import { bitsOf } from '@/core/derive/machine/state';
import { useActions, useDerived, useSelection } from '../workspace/context';
import { type BenchStore, shownOperation, useBenchVersion } from './bench-store';

/** Every register that the plan touches, bit by bit, as it is now: what the last operation changed, and what is not yet as planned. */
export function BenchRegisters({ store }: { store: BenchStore }) {
  useBenchVersion(store);
  const { derived } = useDerived();
  const { selectedPad, selection } = useSelection();
  const { select } = useActions();
  const { machine } = store.recording.play.bench.state;
  const report = store.stepReports()[shownOperation(store)];
  const isDone = store.shown === undefined && store.recording.play.bench.state.operation > 0;
  return (
    <ul aria-label="Registers now" className="min-w-[640px] px-3.5 py-1">
      {derived.lowered.image.map(({ register, planned, mask, owners }) => {
        const { known, value } = bitsOf(machine, register);
        const changed = isDone && report?.register?.name === register.name ? report.register.bits : 0;
        return (
          <li
            key={register.name}
            className={`grid grid-cols-[76px_92px_1fr_92px] items-center gap-2 border-b border-rule leading-6 ${changed ? 'bg-pickbg' : ''}`}
          >
            <span className="m">{register.name}</span>
            <span className="m">{registerText(machine, register)}</span>
            <span className="flex">
              {Array.from({ length: register.bits }, (_, at) => {
                const bit = register.bits - 1 - at;
                const isKnown = ((known >>> bit) & 1) === 1;
                const one = ((value >>> bit) & 1) === 1;
                const isPlanned = ((mask >>> bit) & 1) === 1;
                const differs = isPlanned && (!isKnown || one !== (((planned >>> bit) & 1) === 1));
                const owner = owners.find((it) => it.low <= bit && bit < it.low + it.bits);
                const id = `${register.name}:${owner?.low ?? bit}`;
                const own = owner?.pad !== undefined && owner.pad === selectedPad;
                return (
                  <button
                    key={bit}
                    type="button"
                    tabIndex={-1}
                    title={`bit ${bit}${owner ? `, ${owner.pad} ${owner.field}` : ''}${differs ? ': not as planned yet' : ''}`}
                    className={`m h-6 w-[15px] border-r text-center text-[10.5px] ${bit % 8 === 0 ? 'border-ink' : 'border-rule'} ${
                      (changed >>> bit) & 1
                        ? 'bg-ink text-sheet'
                        : own || selection?.id === id
                          ? 'bg-pickbg'
                          : isPlanned
                            ? ''
                            : 'text-soft'
                    } ${differs ? 'underline decoration-dotted underline-offset-2' : ''}`}
                    onClick={() => select({ kind: 'bits', id })}
                  >
                    {isKnown ? (one ? 1 : 0) : '?'}
                  </button>
                );
              })}
            </span>
            <span className="m text-soft" title="as planned">
              {hexText(planned, register.bits)}
            </span>
          </li>
        );
      })}
      <li className="pt-1 text-soft">
        Dark: changed by the last operation. Dotted: not as planned yet. At the right what the plan comes to.
      </li>
    </ul>
  );
}
