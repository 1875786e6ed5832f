'use client';

import { useRef, useState } from 'react';
import type { Problem } from '@/core/base/problems';
import type { Result } from '@/core/base/result';
import { type PartComparison, verdictOf } from '@/core/compare/parts/compare-parts';
import { partComparisonText, VERDICTS } from '@/core/compare/parts/print';
import { printPartText } from '@/core/description/part-text/text-form';
import type { RecipeFile } from '@/core/description/recipe-file';
import type { DeviceDescription } from '@/core/description/types';
import type { Device } from '@/core/device/device';
import { recipeFileOf } from '@/core/import/compose/print-tables';
import { api } from '../../client/api';
import type { PartTextReader } from '../../client/part-text-worker';
import { ProblemAlert } from '../../parts/problem-alert';
import { ScrollRegion } from '../../parts/scroll-region';

/** The text without its port hardware: what somebody starts from who describes that again. */
function startText(device: Device): string {
  const { recipe, ...rest } = recipeFileOf(device.original);
  const { endian, addresses, ports } = recipe;
  return printPartText({ ...rest, recipe: { endian, ...(addresses ? { addresses } : {}), ports } });
}

/** A text by itself is about the tables of this part; one with pads is a whole description. */
async function readAgain(file: File): Promise<Result<RecipeFile | DeviceDescription>> {
  const text = await file.text();
  const isWhole = /^pad\s/m.test(text) || /"pads"\s*:/.test(text);
  return isWhole ? api.readDescription(file.name, text) : api.readRecipe(file.name, text);
}

/**
 * The same part described a second time, by somebody who has not seen this text, and the difference of meaning: two people rarely make
 * the same mistake.
 */
export function DescribeAgain({
  device,
  reader,
  onClose,
}: {
  device: Device;
  reader: PartTextReader;
  onClose: () => void;
}) {
  const chooser = useRef<HTMLInputElement>(null);
  const [name, setName] = useState('');
  const [busy, setBusy] = useState(false);
  const [problems, setProblems] = useState<Problem[]>([]);
  const [comparison, setComparison] = useState<PartComparison | null>(null);
  const { id } = device.description;
  const start = `data:text/plain;charset=utf-8,${encodeURIComponent(startText(device))}`;

  async function take(file: File | undefined): Promise<void> {
    if (!file) return;
    setName(file.name);
    setProblems([]);
    setComparison(null);
    setBusy(true);
    const again = await readAgain(file);
    const compared = again.ok ? await reader.compare(again.value) : again;
    setBusy(false);
    if (compared?.ok) setComparison(compared.value);
    else if (compared) setProblems(compared.problems);
  }

  const verdict = comparison && verdictOf(comparison);
  return (
    <section aria-label="Describe again, and compare" className="grid gap-1.5 border-t border-rule px-6 py-2">
      <div className="flex flex-wrap items-baseline gap-x-3 gap-y-1">
        <h2 className="mr-auto font-semibold">Describe again, and compare</h2>
        <a className="link" href={start} download={`${id}-again.part`}>
          text to start from
        </a>
        <button type="button" className="button" disabled={busy} onClick={() => chooser.current?.click()}>
          Choose the second description
        </button>
        <button type="button" className="link" onClick={onClose}>
          Close
        </button>
        <input
          ref={chooser}
          type="file"
          accept=".part,.json"
          className="hidden"
          aria-label="second description"
          onChange={(event) => {
            void take(event.target.files?.[0]);
            event.target.value = '';
          }}
        />
      </div>
      <p className="max-w-3xl text-soft">
        Somebody who has not seen this text describes the port hardware again, from the data sheet. Registers
        are compared by address, and the code of each description is proven on the registers of the other.
      </p>
      <ProblemAlert problems={problems} />
      <p role="status" className={verdict === 'different' ? 'text-err' : 'text-soft'}>
        {busy && `comparing ${name} …`}
        {verdict && VERDICTS[verdict]}
      </p>
      {comparison && (
        <ScrollRegion label="Comparison" className="max-h-64">
          <pre className="m whitespace-pre-wrap break-words">
            {partComparisonText(comparison, 'the stored text', name)}
          </pre>
        </ScrollRegion>
      )}
    </section>
  );
}
