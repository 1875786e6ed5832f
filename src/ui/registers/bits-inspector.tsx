'use client';

import { useMemo } from 'react';
import { hexText } from '@/core/base/text/hex';
import type { Operation } from '@/core/derive/machine/operations';
import { addressTexts } from '@/core/device/registers/register-text';
import { fullMask, maskOf, type Register } from '@/core/device/registers/types';
import { type BitRun, type LensRegister, lensRegisters, numberTexts } from '@/core/read-back/lens';
import { Row, Section } from '../inspector/section';
import { circuitColour } from '../parts/circuit-colour';
import { useActions, useDerived, useView } from '../workspace/context';
import { bitsText, findBits, placeOfBits } from './bits';
import { CopyText } from './copy-text';
import { operationText } from './operation-text';
import { TypedValue } from './typed-value';

/** Bits of a register, or all of it: whose they are, what they hold, which operations write them. */
export function BitsInspector({ id }: { id: string }) {
  const { derived } = useDerived();
  const { setView } = useActions();
  const rows = useMemo(() => lensRegisters(derived), [derived]);
  const found = findBits(rows, id);
  if (!found) {
    return (
      <p className="text-soft">
        <span className="m">{placeOfBits(id).name}</span> is not touched by the plan any more.
      </p>
    );
  }
  const { row, run } = found;
  const { register } = row;
  return (
    <>
      <h2 className="text-[17px] font-semibold">
        <span className="font-mono text-[16px]">{register.name}</span>
        {run && ` ${bitsText(run)}`}
      </h2>
      {run ? <Owner run={run} /> : <p className="text-soft">{register.title}</p>}
      <Values row={row} run={run} />
      {addressTexts(register, derived.device.description.recipe).map(({ view, hex, decimal }) => (
        <Row key={view} label={view}>
          <CopyText text={hex} /> <span className="m text-soft">{decimal}</span>
        </Row>
      ))}
      <WrittenBy row={row} run={run} />
      {run && <TypedValue row={row} low={run.low} bits={run.bits} />}
      <p className="mt-2">
        <button type="button" className="link" onClick={() => setView('registers')}>
          show among the registers
        </button>
      </p>
    </>
  );
}

function Owner({ run }: { run: BitRun }) {
  const { derived } = useDerived();
  const { select } = useActions();
  const { pad, one, field, kind } = run;
  if (pad === undefined) {
    const words: Partial<Record<BitRun['kind'], string>> = {
      statement: 'a step of the recipe decides them',
      reserved: 'reserved: every write must hold their value',
      'read-only': 'read only',
    };
    return <p className="text-soft">{words[kind] ?? 'no pad’s'}</p>;
  }
  const pins = derived.device.pinsOf.get(derived.pkg.id)?.get(pad) ?? [];
  return (
    <p className="text-soft">
      {field} of{' '}
      <button
        type="button"
        className="m text-ink hover:underline"
        onClick={() => select({ kind: 'pad', id: pad })}
      >
        {pad}
      </button>
      {pins.length > 0 && ` (pin ${pins.join(', ')})`}
      {one && kind === 'planned' && (
        <>
          {' · '}
          <i
            className="mr-1 inline-block h-2.5 w-1"
            style={{ background: circuitColour(derived.plan, one.net.circuit) }}
          />
          <button
            type="button"
            className="text-ink hover:underline"
            onClick={() => select({ kind: 'net', id: one.net.id })}
          >
            {one.net.name}
          </button>
        </>
      )}
      {kind === 'unplanned' && ' · not planned, stays as it was'}
    </p>
  );
}

function Values({ row, run }: { row: LensRegister; run: BitRun | undefined }) {
  const { register, planned, reset } = row;
  const { low, bits } = run ?? { low: 0, bits: register.bits };
  const own = (value: number): number => Math.floor(value / 2 ** low) % 2 ** bits;
  const mask = run ? maskOf(low, bits) : row.mask;
  const inverse = (~mask & fullMask(register.bits)) >>> 0;
  return (
    <>
      {(
        [
          ['planned', own(planned)],
          ['at reset', own(reset)],
        ] as const
      ).map(([label, value]) => {
        const { hex, binary, decimal } = numberTexts(value, bits);
        return (
          <Row key={label} label={label}>
            <CopyText text={hex} />
            {bits <= 8 && (
              <>
                {' · '}
                <CopyText text={`0b${binary.replaceAll(' ', '')}`} />
              </>
            )}
            {' · '}
            <CopyText text={decimal} />
          </Row>
        );
      })}
      <Row label="mask">
        <CopyText text={hexText(mask, register.bits)} /> · ~
        <CopyText text={hexText(inverse, register.bits)} />
      </Row>
      {run && low > 0 && (
        <Row label="shift">
          <CopyText text={String(low)} />
        </Row>
      )}
    </>
  );
}

/** Whether an operation writes into the register: itself, or through one that sets, clears or turns its bits. */
const writesInto = (operation: Operation, register: Register): boolean =>
  operation.kind !== 'wait' &&
  operation.kind !== 'await' &&
  (operation.register === register ||
    operation.register.target === register ||
    operation.register.clauses?.effects?.some(({ target }) => target === register.name) === true ||
    (operation.register.storage !== undefined && operation.register.storage.word === register.storage?.word));

function WrittenBy({ row, run }: { row: LensRegister; run: BitRun | undefined }) {
  const { derived } = useDerived();
  const { showOperation } = useActions();
  const { shownOperation } = useView();
  const list = derived.lowered.operations.flatMap((operation, index) =>
    writesInto(operation, row.register) &&
    (run?.kind !== 'planned' || operation.pads.some((one) => one.pad === run.pad))
      ? [{ operation, index }]
      : [],
  );
  return (
    <Section
      title={list.some(({ operation }) => operation.kind === 'read') ? 'Read and written by' : 'Written by'}
      aside={list.length === 0 ? 'nothing' : undefined}
    >
      <ol>
        {list.map(({ operation, index }) => (
          <li key={index}>
            <button
              type="button"
              aria-current={shownOperation === index}
              className={`m grid w-full grid-cols-[24px_66px_1fr] gap-1 text-left text-[12px] hover:underline ${
                shownOperation === index ? 'bg-pickbg' : ''
              }`}
              title="Show the line of the code"
              onClick={() => showOperation(index)}
            >
              <span className="text-soft">{index + 1}</span>
              <span className="overflow-hidden text-ellipsis text-soft">{operation.stage}</span>
              <span>{operationText(operation)}</span>
            </button>
          </li>
        ))}
      </ol>
    </Section>
  );
}
