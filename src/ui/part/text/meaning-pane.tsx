'use client';

import type { Meaning } from '@/core/part-meaning/meaning';
import type { PartTextReader } from '../../client/part-text-worker';
import { ScrollRegion } from '../../parts/scroll-region';
import { BitCells } from './bit-cells';
import { TryWrite } from './try-write';

export interface UseLine {
  at: number;
  line: number;
  text: string;
  defines: boolean;
}

interface Props {
  reader: PartTextReader;
  meaning: Meaning | null;
  /** What stands at the cursor. */
  name: string | undefined;
  uses: readonly UseLine[];
  version: number;
  onGo: (at: number) => void;
}

/** What the name at the cursor means: for the eye that goes from the text to the data sheet and back. */
export function MeaningPane({ reader, meaning, name, uses, version, onGo }: Props) {
  return (
    <ScrollRegion label="What it means" className="h-full border-l border-rule px-3 py-2">
      {meaning ? (
        <>
          <h2 className="text-[15px] font-semibold">{meaning.heading}</h2>
          {meaning.says && <p>{meaning.says}</p>}
          <dl className="mt-1 grid grid-cols-[auto_1fr] gap-x-3">
            {meaning.facts.map((fact) => (
              <div key={fact.name} className="contents">
                <dt className="text-soft">{fact.name}</dt>
                <dd className="m min-w-0 break-words">{fact.value}</dd>
              </div>
            ))}
          </dl>
          {meaning.lines.length > 0 && (
            <ul className="m mt-2 grid gap-0.5">
              {meaning.lines.map((line) => (
                <li key={line} className="break-words">
                  {line}
                </li>
              ))}
            </ul>
          )}
          {meaning.bits && (
            <section aria-label="Bits" className="mt-3 grid gap-1">
              <h3 className="font-semibold">
                Bits of <span className="m">{meaning.bits.register}</span>, after reset
              </h3>
              <BitCells
                label={`Bits of ${meaning.bits.register}`}
                cells={meaning.bits.cells.map(({ bit, reset, field, pads }) => ({
                  bit,
                  value: reset,
                  below: field ?? '',
                  hint: field ? `${field} of ${pads}` : 'no field',
                }))}
              />
            </section>
          )}
          {meaning.registers.length > 0 && (
            <TryWrite reader={reader} registers={meaning.registers} version={version} />
          )}
        </>
      ) : name !== undefined ? (
        <h2 className="text-[15px] font-semibold">{name}</h2>
      ) : (
        <p className="text-soft">
          Put the cursor on a name: what it means stands here. <kbd>Ctrl</kbd> <kbd>Space</kbd> offers what
          can stand at the cursor, <kbd>F12</kbd> goes to where a name is given, <kbd>F2</kbd> renames it,{' '}
          <kbd>Shift</kbd> <kbd>Alt</kbd> <kbd>F</kbd> formats. <kbd>Esc</kbd> and then <kbd>Tab</kbd> leaves
          the text.
        </p>
      )}
      {uses.length > 0 && (
        <section aria-label="Uses" className="mt-3">
          <h3 className="font-semibold">Where it stands</h3>
          <ul>
            {uses.map((use) => (
              <li key={use.at}>
                <button
                  type="button"
                  className="link m min-h-6 w-full truncate text-left"
                  onClick={() => onGo(use.at)}
                >
                  {use.line} {use.defines ? '◂ ' : ''}
                  {use.text}
                </button>
              </li>
            ))}
          </ul>
        </section>
      )}
    </ScrollRegion>
  );
}
