'use client';

import { useRouter } from 'next/navigation';
import { useRef, useState } from 'react';
import type { Problem } from '@/core/base/problems';
import { saysText, whatText } from '@/core/description/corrections';
import { migrateCorrections } from '@/core/description/migrations';
import type { Correction } from '@/core/description/types';
import type { Device } from '@/core/device/device';
import type { PartSummary } from '@/core/device/part-facts';
import { api } from '../client/api';
import { ProblemAlert } from '../parts/problem-alert';
import { ScrollRegion } from '../parts/scroll-region';
import { May } from '../people/me';
import { CorrectionForm } from './correction-form';

interface Props {
  device: Device;
  summary: PartSummary;
  /** Which datum to start with, as a path. */
  what: string[];
}

/** What was changed against the documents, why and by whom; and a place to change more. */
export function Corrections({ device, summary, what }: Props) {
  const router = useRouter();
  const corrections = device.original.corrections ?? [];
  const [problems, setProblems] = useState<Problem[]>([]);
  const [busy, setBusy] = useState(false);
  const chooser = useRef<HTMLInputElement>(null);
  const unapplied = new Map(device.unapplied.map((one) => [one.correction.id, one]));

  async function store(next: readonly Correction[]): Promise<boolean> {
    setBusy(true);
    const answer = await api.storeCorrections(summary.id, next, summary.revision);
    setBusy(false);
    setProblems(answer.ok ? [] : answer.problems);
    if (answer.ok) router.refresh();
    return answer.ok;
  }

  /** Corrections of a file are added; one with a known id takes its place. */
  async function addFile(file: File | undefined) {
    if (!file) return;
    try {
      const list = migrateCorrections(JSON.parse(await file.text())) as Correction[];
      if (!Array.isArray(list)) throw new Error('it holds no list');
      const ids = new Set(list.map((one) => one.id));
      await store([...corrections.filter((one) => !ids.has(one.id)), ...list]);
    } catch (error) {
      setProblems([{ place: file.name, message: error instanceof Error ? error.message : 'cannot be read' }]);
    }
  }

  return (
    <ScrollRegion label="Corrections" className="h-full px-6 py-3">
      <div className="mb-2 flex flex-wrap items-baseline gap-4">
        <p className="mr-auto text-soft">
          Laid over the imported description; the original stays, and they are applied again after a new
          import.
        </p>
        <button type="button" className="link" onClick={() => chooser.current?.click()}>
          add from a file
        </button>
        <input
          ref={chooser}
          type="file"
          accept=".json"
          className="hidden"
          aria-label="corrections file"
          onChange={(event) => {
            void addFile(event.target.files?.[0]);
            event.target.value = '';
          }}
        />
        {corrections.length > 0 && (
          <a className="link" href={`/api/devices/${summary.id}/export?as=corrections`} download>
            take away as a file
          </a>
        )}
      </div>
      <ProblemAlert problems={problems} className="mb-2" />
      {corrections.length === 0 && <p className="mb-3">None yet: everything is as the documents have it.</p>}
      {corrections.length > 0 && (
        <table className="mb-4 w-full border-collapse">
          <thead>
            <tr className="border-b border-ink text-left text-soft">
              <th className="py-1 pr-3 font-medium">Datum</th>
              <th className="pr-3 font-medium">Document says</th>
              <th className="pr-3 font-medium">Right is</th>
              <th className="pr-3 font-medium">Why</th>
              <th className="pr-3 font-medium">Who, when</th>
              <th>
                <span className="sr-only">Actions</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {corrections.map((one) => {
              const stale = unapplied.get(one.id);
              return (
                <tr key={one.id} className="border-b border-rule align-baseline">
                  <td className="whitespace-nowrap py-1 pr-3 font-medium">{whatText(one.what)}</td>
                  <td className="m pr-3">
                    <s className="text-soft">{saysText(one.from)}</s>
                  </td>
                  <td className="m pr-3">{saysText(one.to)}</td>
                  <td className="pr-3">
                    {one.why}
                    {stale && <span className="block text-warn">△ not applied: {stale.why}</span>}
                  </td>
                  <td className="whitespace-nowrap pr-3 text-soft">
                    {one.who || 'unnamed'}, {one.when.slice(0, 10)}
                  </td>
                  <td className="text-right">
                    <button
                      type="button"
                      className="link"
                      disabled={busy}
                      onClick={() => void store(corrections.filter((other) => other.id !== one.id))}
                    >
                      withdraw
                    </button>
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      )}
      <May right="edit">
        <CorrectionForm
          device={device}
          what={what}
          busy={busy}
          onAdd={(one) => store([...corrections, one])}
        />
      </May>
    </ScrollRegion>
  );
}
