'use client';

import { Copy, Download, Plus, Trash2, Undo2, Upload } from 'lucide-react';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { type DragEvent, useRef, useState, useTransition } from 'react';
import type { ProfileSummary } from '@/core/board/profile-summary';
import { LIMITS, tooLarge } from '@/core/limits';
import { namesakes, type PlanSummary, tagOf } from '@/core/plan/summary';
import type { Problem } from '@/core/result';
import { api } from '../client/api';
import { PageHead } from '../parts/page-head';
import { NewPlanDialog } from './new-plan-dialog';
import { RenameField } from './rename-field';

export interface DeviceLine {
  id: string;
  name: string;
  summary: string;
  packages: { id: string; name: string }[];
}

interface Message {
  text: string;
  problems: Problem[];
  /** A plan just deleted, which one click brings back. */
  restore?: string;
}

interface Props {
  plans: PlanSummary[];
  devices: DeviceLine[];
  profiles: ProfileSummary[];
}

export function PlanList({ plans, devices, profiles }: Props) {
  const router = useRouter();
  const [, startTransition] = useTransition();
  const [creating, setCreating] = useState(false);
  const [message, setMessage] = useState<Message | null>(null);
  const [dragging, setDragging] = useState(false);
  const chooser = useRef<HTMLInputElement>(null);
  const live = plans.filter((plan) => plan.deletedAt === null);
  const deleted = plans.filter((plan) => plan.deletedAt !== null);
  const alike = namesakes(live);

  const refresh = () => startTransition(() => router.refresh());

  async function importFiles(files: FileList | null) {
    const file = files?.[0];
    if (!file) return;
    if (file.size > LIMITS.planBytes) {
      setMessage({
        text: `${file.name} was not imported.`,
        problems: [{ place: file.name, message: `the file ${tooLarge('planBytes')}` }],
      });
      return;
    }
    const answer = await api.importPlan(file.name, await file.text());
    if (answer.ok) router.push(`/plans/${answer.value.id}`);
    else
      setMessage({ text: `${file.name} was not imported; nothing was changed.`, problems: answer.problems });
  }

  async function act(
    answer: Promise<{ ok: boolean; problems?: Problem[] }>,
    failure: string,
    done?: Message,
  ) {
    const result = await answer;
    setMessage(result.ok ? (done ?? null) : { text: failure, problems: result.problems ?? [] });
    refresh();
  }

  function drop(event: DragEvent) {
    event.preventDefault();
    setDragging(false);
    void importFiles(event.dataTransfer.files);
  }

  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: dropping a file is a shortcut; the import button does the same
    <div
      className="min-h-full"
      onDragOver={(event) => {
        event.preventDefault();
        setDragging(true);
      }}
      onDragLeave={() => setDragging(false)}
      onDrop={drop}
    >
      <PageHead here="/" />
      <main
        className={`mx-auto max-w-5xl px-6 py-8 ${dragging ? 'outline-2 outline-dashed outline-pick' : ''}`}
      >
        <div className="mb-4 flex flex-wrap items-center gap-2">
          <h1 className="mr-auto text-xl font-semibold">Plans</h1>
          <button
            type="button"
            className="button inline-flex items-center gap-1.5"
            onClick={() => chooser.current?.click()}
          >
            <Upload size={14} aria-hidden /> Import a plan file
          </button>
          <button
            type="button"
            className="button button-strong inline-flex items-center gap-1.5"
            onClick={() => setCreating(true)}
          >
            <Plus size={14} aria-hidden /> New plan
          </button>
          <input
            ref={chooser}
            type="file"
            accept=".json,application/json"
            className="hidden"
            aria-label="plan file"
            onChange={(event) => {
              void importFiles(event.target.files);
              event.target.value = '';
            }}
          />
        </div>
        {message && (
          <div role="alert" className="mb-4 flex items-start gap-3 border border-ink bg-sheet px-4 py-2">
            <div className="mr-auto min-w-0">
              <p className={message.problems.length > 0 ? 'text-err' : ''}>{message.text}</p>
              {message.problems.slice(0, 8).map((problem) => (
                <p key={`${problem.place} ${problem.message}`} className="break-words">
                  <span className="m text-soft">{problem.place}</span> {problem.message}
                </p>
              ))}
            </div>
            {message.restore !== undefined && (
              <button
                type="button"
                className="link"
                onClick={() =>
                  act(api.restorePlan(message.restore ?? ''), 'The plan could not be brought back.')
                }
              >
                Bring it back
              </button>
            )}
            <button type="button" className="link" onClick={() => setMessage(null)}>
              Close
            </button>
          </div>
        )}
        {live.length === 0 ? (
          <p className="border-t border-ink py-6 text-soft">
            No plans yet. A plan begins with a part and its package; then you say what nets the board needs
            and give each a pad. Start with <b className="font-semibold text-ink">New plan</b>, or drop a plan
            file here.
          </p>
        ) : (
          <table className="w-full border-collapse">
            <thead>
              <tr className="border-b border-ink text-left text-soft">
                <th className="py-1 font-medium">Plan</th>
                <th className="py-1 font-medium max-sm:hidden">Part · package</th>
                <th className="py-1 text-right font-medium">Nets placed</th>
                <th className="py-1 pl-6 font-medium">Findings</th>
                <th className="py-1 font-medium max-md:hidden">Changed</th>
                <th className="py-1">
                  <span className="sr-only">Actions</span>
                </th>
              </tr>
            </thead>
            <tbody>
              {live.map((plan) => (
                <tr key={plan.id} className="border-b border-rule hover:bg-sheet">
                  <td className="py-1.5 pr-4">
                    <RenameField planId={plan.id} name={plan.name} onDone={refresh} onProblem={setMessage}>
                      <Link
                        prefetch={false}
                        href={`/plans/${plan.id}`}
                        className="text-[15px] font-medium hover:underline"
                      >
                        {plan.name}
                      </Link>
                      <span className="ml-2 text-soft">{plan.revision && `rev ${plan.revision}`}</span>
                      {alike.has(plan.id) && (
                        <span className="ml-2 text-soft" title="Another plan has this name and revision">
                          <span className="m">{tagOf(plan.id)}</span> · one of several of this name
                        </span>
                      )}
                    </RenameField>
                  </td>
                  <td className="pr-4 text-soft max-sm:hidden">{partWords(devices, plan)}</td>
                  <td className="m text-right tabular-nums">
                    {plan.placed}/{plan.nets}
                  </td>
                  <td className="pl-6">
                    <FindingCounts errors={plan.errors} warnings={plan.warnings} />
                  </td>
                  <td className="text-soft max-md:hidden" suppressHydrationWarning>
                    {new Date(plan.updatedAt).toLocaleString('en-GB', {
                      dateStyle: 'medium',
                      timeStyle: 'short',
                    })}
                  </td>
                  <td className="whitespace-nowrap text-right">
                    <a
                      className="inline-block p-1.5 align-middle text-soft hover:text-ink"
                      href={`/api/plans/${plan.id}/file`}
                      download
                      aria-label={`Export ${plan.name} as a file`}
                      title="Export as a file"
                    >
                      <Download size={15} />
                    </a>
                    <IconButton
                      title="Duplicate"
                      label={`Duplicate ${plan.name}`}
                      onClick={() => act(api.duplicatePlan(plan.id), `${plan.name} could not be duplicated.`)}
                    >
                      <Copy size={15} />
                    </IconButton>
                    <IconButton
                      title="Delete"
                      label={`Delete ${plan.name}`}
                      onClick={() =>
                        act(api.deletePlan(plan.id), `${plan.name} could not be deleted.`, {
                          text: `${plan.name} was deleted.`,
                          problems: [],
                          restore: plan.id,
                        })
                      }
                    >
                      <Trash2 size={15} />
                    </IconButton>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        )}
        {deleted.length > 0 && (
          <details className="mt-6">
            <summary className="text-soft">
              {deleted.length} deleted {deleted.length === 1 ? 'plan' : 'plans'}, kept for 30 days
            </summary>
            <ul className="mt-2">
              {deleted.map((plan) => (
                <li key={plan.id} className="flex items-center gap-3 border-b border-rule py-1">
                  <span>{plan.name}</span>
                  <span className="text-soft">{plan.revision && `rev ${plan.revision}`}</span>
                  <button
                    type="button"
                    className="link ml-auto inline-flex items-center gap-1"
                    onClick={() => act(api.restorePlan(plan.id), `${plan.name} could not be brought back.`)}
                  >
                    <Undo2 size={14} aria-hidden /> Bring back
                  </button>
                </li>
              ))}
            </ul>
          </details>
        )}
      </main>
      <NewPlanDialog
        open={creating}
        onOpenChange={setCreating}
        devices={devices}
        profiles={profiles}
        taken={live.map((plan) => plan.name)}
      />
    </div>
  );
}

function partWords(devices: DeviceLine[], plan: PlanSummary): string {
  const device = devices.find((one) => one.id === plan.device);
  if (!device) return `${plan.device} (not installed here)`;
  return `${device.name} · ${device.packages.find((one) => one.id === plan.package)?.name ?? plan.package}`;
}

export function FindingCounts({ errors, warnings }: { errors: number; warnings: number }) {
  if (errors + warnings === 0) return <span className="text-soft">none</span>;
  return (
    <span className="inline-flex gap-3">
      {errors > 0 && (
        <span className="text-err" title={`${errors} errors`}>
          ▲ {errors} <span className="sr-only">errors</span>
        </span>
      )}
      {warnings > 0 && (
        <span className="text-warn" title={`${warnings} warnings`}>
          △ {warnings} <span className="sr-only">warnings</span>
        </span>
      )}
    </span>
  );
}

function IconButton(props: { title: string; label: string; onClick: () => void; children: React.ReactNode }) {
  return (
    <button
      type="button"
      className="p-1.5 align-middle text-soft hover:text-ink"
      title={props.title}
      aria-label={props.label}
      onClick={props.onClick}
    >
      {props.children}
    </button>
  );
}
