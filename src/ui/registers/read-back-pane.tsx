'use client';

import { useMemo, useState } from 'react';
import { LIMITS } from '@/core/base/limits';
import { DUMP_FORMS, DUMP_TITLES, type DumpForm, readDump, textOrBytes } from '@/core/read-back/dump';
import { parseValue } from '@/core/read-back/parse-value';
import { type PadReading, readBack } from '@/core/read-back/read-back';
import { joined } from '@/core/read-back/take-over';
import { newId } from '../client/ids';
import { ScrollRegion } from '../parts/scroll-region';
import { useActions, useDerived } from '../workspace/context';
import { ReadingLine } from './reading-line';

/** A dump of registers as the plan that it would be: what differs from this plan, what it cannot know, and what to take over. */
export function ReadBackPane({ addresses }: { addresses: 'cpu' | 'document' }) {
  const { derived } = useDerived();
  const { dispatch } = useActions();
  const [input, setInput] = useState<string | Uint8Array>('');
  const [form, setForm] = useState<DumpForm>('auto');
  const [at, setAt] = useState('');
  const [file, setFile] = useState<string | null>(null);
  const [chosen, setChosen] = useState<Readonly<Record<string, number>>>({});
  const [said, setSaid] = useState<string | null>(null);
  const isEmpty = input.length === 0;
  const dump = useMemo(
    () =>
      isEmpty
        ? null
        : readDump(derived.device, input, {
            form,
            addresses,
            ...(parseValue(at, 32) === undefined ? {} : { at: parseValue(at, 32) }),
          }),
    [derived.device, input, isEmpty, form, addresses, at],
  );
  const readings = useMemo(
    () => (dump?.ok ? readBack(derived, (register) => dump.value.values.get(register), newId) : []),
    [dump, derived],
  );
  const given = dump?.ok ? dump.value : undefined;
  const changes = readings.filter((one) => one.state === 'differs' || one.state === 'other');
  const meaningless = readings.filter((one) => one.state === 'meaningless');
  const same = readings.filter((one) => one.state === 'same' && one.missing.length === 0);
  const missing = [...new Set(readings.flatMap((one) => one.missing))];

  function takeOver(list: readonly PadReading[]) {
    const edits = list.flatMap((one) => one.meanings[chosen[one.pad] ?? 0]?.edit ?? []);
    const taken = joined(derived.plan, `${list.length} pads as read back`, edits);
    if (!taken.ok) setSaid(taken.problems[0]?.message ?? 'this cannot be taken over');
    else if (dispatch(taken.value.edit))
      setSaid(`${list.length === 1 ? list[0]?.pad : `${list.length} pads`} taken over; undo takes it back`);
  }

  async function readFile(picked: File | undefined) {
    if (!picked) return;
    if (picked.size > LIMITS.dumpCharacters) {
      setSaid(`${picked.name} is too large for a dump of registers`);
      return;
    }
    const bytes = new Uint8Array(await picked.arrayBuffer());
    setFile(picked.name);
    setInput(textOrBytes(bytes));
  }

  return (
    <ScrollRegion label="Read back" className="min-h-0 flex-1 px-3.5 py-2">
      <p className="mb-1.5 max-w-[75ch] text-soft">
        Paste what a debugger printed of the registers, or open a file: names or addresses with values, a
        memory print, Intel HEX, S-records, or raw bytes. It is shown as the plan that it would be.
      </p>
      <div className="flex flex-wrap items-center gap-2">
        <label className="flex items-center gap-1.5 text-soft">
          It is
          <select
            className="py-0 text-ink"
            value={form}
            onChange={(event) => setForm(event.target.value as DumpForm)}
          >
            {DUMP_FORMS.map((one) => (
              <option key={one} value={one}>
                {DUMP_TITLES[one]}
              </option>
            ))}
          </select>
        </label>
        {(form === 'binary' || typeof input !== 'string') && (
          <label className="flex items-center gap-1.5 text-soft">
            from address
            <input
              className="m w-28 py-0 text-ink"
              value={at}
              placeholder="0x40000000"
              onChange={(event) => setAt(event.target.value)}
            />
          </label>
        )}
        <label className="button cursor-pointer focus-within:outline focus-within:outline-2">
          Open a file …
          <input
            type="file"
            className="sr-only"
            onChange={(event) => {
              void readFile(event.target.files?.[0]);
              event.target.value = '';
            }}
          />
        </label>
        {file && <span className="m text-soft">{file}</span>}
        {!isEmpty && (
          <button
            type="button"
            className="link"
            onClick={() => {
              setInput('');
              setFile(null);
              setSaid(null);
            }}
          >
            clear
          </button>
        )}
      </div>
      {typeof input === 'string' ? (
        <textarea
          aria-label="Dump of registers"
          className="m mt-1.5 block h-24 w-full text-[12px]"
          spellCheck={false}
          placeholder={'PA.USE = 0xFFFF17C6\n0x50020004: 0x00004012\n…'}
          value={input}
          maxLength={LIMITS.dumpCharacters}
          onChange={(event) => setInput(event.target.value)}
        />
      ) : (
        <p className="mt-1.5 text-soft">{input.length} bytes</p>
      )}
      <div aria-live="polite">
        {said && <p className="mt-1">{said}</p>}
        {dump && !dump.ok && (
          <ul className="mt-1 text-err">
            {dump.problems.map(({ place, message }) => (
              <li key={`${place} ${message}`}>
                {place}: {message}
              </li>
            ))}
          </ul>
        )}
        {given && (
          <p className="mt-2">
            <b className="font-semibold">{DUMP_TITLES[given.form]}</b>: {given.values.size} registers read.{' '}
            {same.length} pads are as planned,{' '}
            {changes.length === 0
              ? 'none differs'
              : `${changes.length} ${changes.length === 1 ? 'differs' : 'differ'}`}
            {meaningless.length > 0 && `, ${meaningless.length} hold what is no setting`}
            {missing.length > 0 && `, ${missing.length} registers are not in it`}.
            {given.strayBytes > 0 && ` ${given.strayBytes} bytes are at addresses without a register.`}
          </p>
        )}
      </div>
      {given && given.unread.length > 0 && (
        <details className="mt-1">
          <summary className="cursor-pointer text-warn">
            {given.unread.length === 1 ? '1 line was' : `${given.unread.length} lines were`} not understood
          </summary>
          <ul className="ml-4">
            {given.unread.map(({ place, message }) => (
              <li key={`${place} ${message}`}>
                <span className="m">{place}</span>: {message}
              </li>
            ))}
          </ul>
        </details>
      )}
      {changes.length > 0 && (
        <section aria-label="What differs" className="mt-2">
          <h3 className="flex items-baseline gap-3 border-b border-rule pb-1 font-semibold">
            What differs
            <button type="button" className="button ml-auto font-normal" onClick={() => takeOver(changes)}>
              Take all {changes.length} over
            </button>
          </h3>
          <ul>
            {changes.map((reading) => (
              <ReadingLine key={reading.pad} reading={reading}>
                {reading.missing.length > 0 && (
                  <span className="text-soft" title={reading.missing.map((one) => one.name).join(', ')}>
                    as far as read
                  </span>
                )}
                {reading.meanings.some((one) => !one.exact) && (
                  <span className="text-warn">no plan gives exactly these bits</span>
                )}
                <span className="ml-auto flex items-baseline gap-2">
                  {reading.meanings.length > 1 && (
                    <select
                      aria-label={`What ${reading.pad} means`}
                      className="max-w-56 py-0"
                      value={chosen[reading.pad] ?? 0}
                      onChange={(event) =>
                        setChosen({ ...chosen, [reading.pad]: Number(event.target.value) })
                      }
                    >
                      {reading.meanings.map((one, index) => (
                        <option key={one.text} value={index}>
                          {one.text}
                        </option>
                      ))}
                    </select>
                  )}
                  <button type="button" className="link" onClick={() => takeOver([reading])}>
                    take over
                  </button>
                </span>
              </ReadingLine>
            ))}
          </ul>
        </section>
      )}
      {meaningless.length > 0 && (
        <section aria-label="What means nothing" className="mt-2">
          <h3 className="border-b border-rule pb-1 font-semibold">What is no setting</h3>
          <ul>
            {meaningless.map((reading) => (
              <ReadingLine key={reading.pad} reading={reading} />
            ))}
          </ul>
        </section>
      )}
      {missing.length > 0 && (
        <details className="mt-2">
          <summary className="cursor-pointer text-soft">
            {missing.length} registers are not in the dump; they are taken to be as planned
          </summary>
          <p className="m ml-4">{missing.map((one) => one.name).join(', ')}</p>
        </details>
      )}
    </ScrollRegion>
  );
}
