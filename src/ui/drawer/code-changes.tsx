'use client';

import { useMemo } from 'react';
import { CodeText } from '../code/code-text';
import { changedOnly, shownLines } from '../code/lines';
import { useCode } from '../code/use-code';
import { useActions, useDerived } from '../workspace/context';

/** The source file in small: what changed since the last export, or the whole when nothing was exported yet. */
export function CodeChanges() {
  const { derived } = useDerived();
  const { setView } = useActions();
  const { files, last, target } = useCode();
  const file = files.at(-1);
  const before = last?.files.at(-1)?.text;
  const lines = useMemo(() => shownLines(file?.text ?? '', before), [file, before]);
  const shown = useMemo(() => (last ? changedOnly(bodyOf(lines), 1) : bodyOf(lines)), [last, lines]);
  if (!file || !target || derived.planned.length === 0) {
    return <p className="px-3.5 py-2.5 text-soft">Code appears here with the first net that is placed.</p>;
  }
  const unchanged = last !== null && lines.every((line) => line.kind === 'same');
  return (
    <div className="flex h-full flex-col">
      <div className="flex items-baseline gap-3 px-3.5 pt-1.5 text-soft">
        <span className="m">{file.path}</span>
        <span>
          {last ? (unchanged ? 'as last exported' : 'changed since the last export') : 'not exported yet'}
        </span>
        <button type="button" className="link ml-auto" onClick={() => setView('code')}>
          all code
        </button>
      </div>
      {!unchanged && (
        <div className="min-h-0 flex-1">
          <CodeText
            label={`Changes of ${file.path}`}
            language={target.language}
            text={file.text}
            lines={shown}
          />
        </div>
      )}
    </div>
  );
}

/** The part that does something: from the function's opening on. */
function bodyOf<T extends { text: string }>(lines: readonly T[]): readonly T[] {
  const start = lines.findIndex((line) => line.text.startsWith('void '));
  return start < 0 ? lines : lines.slice(start);
}
