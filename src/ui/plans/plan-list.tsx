'use client';

import { Plus, Undo2, Upload } from 'lucide-react';
import { useRouter } from 'next/navigation';
import { type DragEvent, useRef, useState, useTransition } from 'react';
import { LIMITS, tooLarge } from '@/core/base/limits';
import type { Problem } from '@/core/base/problems';
import type { ProfileSummary } from '@/core/plan/profile-summary';
import { namesakes, type PlanSummary } from '@/core/plan/summary';
import { api } from '../client/api';
import { useStartKeys } from '../commands/start-keys';
import { KeysDialog } from '../help/keys-dialog';
import { PageHead } from '../parts/page-head';
import { May, useMay } from '../people/me';
import { FindPlans } from './find-plans';
import { FirstSteps, KeyHint } from './first-steps';
import { NewPlanDialog } from './new-plan-dialog';
import { type Message, PlanMessage } from './plan-message';
import { PlanRow } from './plan-row';

export interface DeviceLine {
  id: string;
  name: string;
  summary: string;
  packages: { id: string; name: string }[];
}

interface Props {
  plans: PlanSummary[];
  devices: DeviceLine[];
  profiles: ProfileSummary[];
  /** Only plans that hold these words are in the list. */
  find: string;
  /** There are more than the list tells. */
  isCut: boolean;
}

/** So many plans are overlooked without a field to find one. */
const MANY_PLANS = 12;

export function PlanList({ plans, devices, profiles, find, isCut }: Props) {
  const router = useRouter();
  const [, startTransition] = useTransition();
  const [creating, setCreating] = useState(false);
  const [message, setMessage] = useState<Message | null>(null);
  const [dragging, setDragging] = useState(false);
  const [keys, setKeys] = useState(false);
  useStartKeys(() => setKeys(true));
  const mayEdit = useMay('edit');
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
          {(find !== '' || plans.length > MANY_PLANS) && <FindPlans find={find} />}
          <May right="edit">
            <button
              type="button"
              data-start="import"
              className="button inline-flex items-center gap-1.5"
              onClick={() => chooser.current?.click()}
            >
              <Upload size={14} aria-hidden /> Import a plan file <KeyHint starts="import" />
            </button>
            <button
              type="button"
              data-start="new"
              className="button button-strong inline-flex items-center gap-1.5"
              onClick={() => setCreating(true)}
            >
              <Plus size={14} aria-hidden /> New plan <KeyHint starts="new" />
            </button>
          </May>
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
          <PlanMessage
            message={message}
            onRestore={(id) => act(api.restorePlan(id), 'The plan could not be brought back.')}
            onClose={() => setMessage(null)}
          />
        )}
        <FirstSteps
          demo={mayEdit ? demoPart(devices) : undefined}
          demoPlan={live.find((plan) => plan.id === 'frost-guard')?.id}
          taken={live.map((plan) => plan.name)}
          onNew={() => setCreating(true)}
        />
        {live.length === 0 && find !== '' ? (
          <p className="border-t border-ink py-6 text-soft">No plan holds “{find}”.</p>
        ) : live.length === 0 ? (
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
                <th className="py-1 pl-4 font-medium max-md:hidden">Changed</th>
                <th className="py-1">
                  <span className="sr-only">Actions</span>
                </th>
              </tr>
            </thead>
            <tbody>
              {live.map((plan) => (
                <PlanRow
                  key={plan.id}
                  plan={plan}
                  part={partWords(devices, plan)}
                  oneOfSeveral={alike.has(plan.id)}
                  onChanged={refresh}
                  onProblem={setMessage}
                  onDuplicate={() => act(api.duplicatePlan(plan.id), `${plan.name} could not be duplicated.`)}
                  onDelete={() =>
                    act(api.deletePlan(plan.id), `${plan.name} could not be deleted.`, {
                      text: `${plan.name} was deleted.`,
                      problems: [],
                      restore: plan.id,
                    })
                  }
                />
              ))}
            </tbody>
          </table>
        )}
        {isCut && (
          <p className="py-2 text-soft">
            These were changed last; others are found by name, revision or part.
          </p>
        )}
        {deleted.length > 0 && mayEdit && (
          <DeletedPlans
            plans={deleted}
            onRestore={({ id, name }) => act(api.restorePlan(id), `${name} could not be brought back.`)}
          />
        )}
      </main>
      <NewPlanDialog
        open={creating}
        onOpenChange={setCreating}
        devices={devices}
        profiles={profiles}
        taken={live.map((plan) => plan.name)}
      />
      <KeysDialog open={keys} onOpenChange={setKeys} />
    </div>
  );
}

/** The part that a first plan is made on: the demo's, else the first that is there. */
function demoPart(devices: readonly DeviceLine[]): { device: string; pkg: string } | undefined {
  const device = devices.find((one) => one.id === 'corvane-c40-80') ?? devices[0];
  const pkg = device?.packages.find((one) => one.id === 'q100') ?? device?.packages[0];
  return device && pkg && { device: device.id, pkg: pkg.id };
}

function partWords(devices: DeviceLine[], plan: PlanSummary): string {
  const device = devices.find((one) => one.id === plan.device);
  if (!device) return `${plan.device} (not installed here)`;
  return `${device.name} · ${device.packages.find((one) => one.id === plan.package)?.name ?? plan.package}`;
}

function DeletedPlans({
  plans,
  onRestore,
}: {
  plans: readonly PlanSummary[];
  onRestore: (plan: PlanSummary) => void;
}) {
  return (
    <details className="mt-6">
      <summary className="text-soft">
        {plans.length} deleted {plans.length === 1 ? 'plan' : 'plans'}, kept for 30 days
      </summary>
      <ul className="mt-2">
        {plans.map((plan) => (
          <li key={plan.id} className="flex items-center gap-3 border-b border-rule py-1">
            <span>{plan.name}</span>
            <span className="text-soft">{plan.revision && `rev ${plan.revision}`}</span>
            <button
              type="button"
              className="link ml-auto inline-flex items-center gap-1"
              onClick={() => onRestore(plan)}
            >
              <Undo2 size={14} aria-hidden /> Bring back
            </button>
          </li>
        ))}
      </ul>
    </details>
  );
}
