'use client';

import { useMemo, useState } from 'react';
import { LIMITS } from '@/core/base/limits';
import { newId } from '@/core/base/text/new-id';
import { DUMP_FORMS, DUMP_TITLES, type DumpForm, readDump, textOrBytes } from '@/core/read-back/dump';
import { parseValue } from '@/core/read-back/parse-value';
import { readBack } from '@/core/read-back/read-back';
import { ScrollRegion } from '../parts/scroll-region';
import { Segments } from '../parts/segments';
import { useDerived } from '../workspace/context';
import { CodePane } from './code-pane';
import { Differences } from './differences';

/** What there is already, as the plan that it would be: what registers hold, or code that sets them. */
export function ReadBackPane({ addresses }: { addresses: 'cpu' | 'document' }) {
  const [kind, setKind] = useState('dump');
  return (
    <ScrollRegion label="Read back" className="min-h-0 flex-1 px-3.5 py-2">
      <div className="mb-2">
        <Segments
          label="What is read back"
          value={kind}
          choices={[
            { value: 'dump', label: 'a dump of registers' },
            { value: 'code', label: 'existing C' },
          ]}
          onChange={setKind}
        />
      </div>
      {kind === 'dump' ? <DumpPane addresses={addresses} /> : <CodePane />}
    </ScrollRegion>
  );
}

/** A dump of registers as the plan that it would be: what differs from this plan, what it cannot know, and what to take over. */
function DumpPane({ addresses }: { addresses: 'cpu' | 'document' }) {
  const { derived } = useDerived();
  const [input, setInput] = useState<string | Uint8Array>('');
  const [form, setForm] = useState<DumpForm>('auto');
  const [at, setAt] = useState('');
  const [file, setFile] = useState<string | null>(null);
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
    <>
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
      <Differences readings={readings} source="as read back" onSaid={setSaid} />
      {missing.length > 0 && (
        <details className="mt-2">
          <summary className="cursor-pointer text-soft">
            {missing.length} registers are not in the dump; they are taken to be as planned
          </summary>
          <p className="m ml-4">{missing.map((one) => one.name).join(', ')}</p>
        </details>
      )}
    </>
  );
}
