'use client';

import Link from 'next/link';
import { Fragment, useCallback, useEffect, useState } from 'react';
import { fieldTitle } from '@/core/plan/model/field-titles';
import { type PlanSummary, planTitles } from '@/core/plan/summary';
import { isAgreed } from '@/core/variants/print';
import type { FoundVariants, VariantReport } from '@/core/variants/variants';
import { api } from '../client/api';
import { authorName } from '../client/author';
import { PageHead } from '../parts/page-head';
import { May } from '../people/me';

interface Props {
  id: string;
  name: string;
  /** Circuits of this plan. */
  circuits: readonly string[];
  /** All plans, this one too. */
  plans: readonly PlanSummary[];
}

/** One application on several boards: which plans are its variants, and what they do not agree on. */
export function VariantsPage({ id, name, circuits, plans }: Props) {
  const [found, setFound] = useState<FoundVariants | null | undefined>(undefined);
  const [said, setSaid] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const load = useCallback(async () => {
    const answer = await api.variants(id);
    setFound(answer.ok ? answer.value.found : null);
    if (!answer.ok) setSaid(answer.problems.map(({ place, message }) => `${place}: ${message}`).join('; '));
  }, [id]);
  useEffect(() => void load(), [load]);

  /** Makes the net the same in several variants, one edit each. */
  async function take(
    from: number,
    to: readonly number[],
    place: { circuit: string; net: string; field?: string },
  ) {
    if (!found) return;
    setBusy(true);
    const faults: string[] = [];
    for (const at of to) {
      const answer = await api.takeOver(found.family.plans[at] ?? '', {
        from: found.family.plans[from] ?? '',
        ...place,
        author: authorName(),
      });
      if (!answer.ok) faults.push(answer.problems[0]?.message ?? 'it could not be taken over');
    }
    setSaid(faults.length > 0 ? faults.join('; ') : null);
    await load();
    setBusy(false);
  }

  return (
    <div className="min-h-full">
      <PageHead here="/" />
      <main className="mx-auto max-w-6xl px-6 py-6">
        <div className="mb-3 flex flex-wrap items-baseline gap-x-4 gap-y-1">
          <h1 className="text-xl font-semibold">Variants of {name}</h1>
          <Link className="link" href={`/plans/${id}`}>
            Open the plan
          </Link>
        </div>
        <p className="text-soft">
          One application on several boards: in the circuits that they share, nets are the same to the
          application. Where a net sits, and what its pad is set to, is each board’s own.
        </p>
        {said && (
          <p role="alert" className="mt-2 text-err">
            {said}
          </p>
        )}
        {found === undefined ? (
          <p className="py-4 text-soft">Looking …</p>
        ) : (
          <>
            <Choose
              key={JSON.stringify(found?.family)}
              id={id}
              found={found}
              circuits={circuits}
              plans={plans}
              onDone={(problem) => {
                setSaid(problem);
                void load();
              }}
            />
            {found && <Report found={found} titles={planTitles(plans)} busy={busy} onTake={take} />}
          </>
        )}
      </main>
    </div>
  );
}

function Choose({
  id,
  found,
  circuits,
  plans,
  onDone,
}: Pick<Props, 'id' | 'circuits' | 'plans'> & {
  found: FoundVariants | null;
  onDone: (problem: string | null) => void;
}) {
  const [chosen, setChosen] = useState<readonly string[]>(found?.family.plans.slice(1) ?? []);
  const [shared, setShared] = useState<readonly string[]>(found?.family.circuits ?? circuits);
  const titles = planTitles(plans);
  const toggled = (list: readonly string[], one: string): string[] =>
    list.includes(one) ? list.filter((other) => other !== one) : [...list, one];
  async function keep() {
    const answer = await api.setVariants(id, chosen, shared);
    onDone(answer.ok ? null : (answer.problems[0]?.message ?? 'it could not be kept'));
  }
  return (
    <details className="my-3 border-y border-rule py-2" open={!found}>
      <summary className="font-semibold">Which plans, and which circuits they share</summary>
      <div className="mt-2 grid gap-6 md:grid-cols-2">
        <fieldset>
          <legend className="text-soft">plans</legend>
          {plans.every((plan) => plan.id === id) && (
            <p>There is no other plan. Duplicate this one, and change its part or package.</p>
          )}
          <div className="max-h-64 overflow-auto">
            {plans
              .filter((plan) => plan.id !== id)
              .map((plan) => (
                <label key={plan.id} className="flex min-h-6 items-center gap-2">
                  <input
                    type="checkbox"
                    checked={chosen.includes(plan.id)}
                    onChange={() => setChosen(toggled(chosen, plan.id))}
                  />
                  {titles.get(plan.id)}
                </label>
              ))}
          </div>
        </fieldset>
        <fieldset>
          <legend className="text-soft">circuits</legend>
          {circuits.map((circuit) => (
            <label key={circuit} className="flex min-h-6 items-center gap-2">
              <input
                type="checkbox"
                checked={shared.includes(circuit)}
                onChange={() => setShared(toggled(shared, circuit))}
              />
              {circuit}
            </label>
          ))}
        </fieldset>
      </div>
      <p className="mt-2 flex gap-3">
        <May right="edit">
          <button
            type="button"
            className="button button-strong"
            disabled={!found && chosen.length === 0}
            onClick={() => void keep()}
          >
            {chosen.length === 0 ? 'No variants any more' : 'These are variants'}
          </button>
        </May>
      </p>
    </details>
  );
}

type Take = (
  from: number,
  to: readonly number[],
  place: { circuit: string; net: string; field?: string },
) => void;

function Report({
  found: { report, family },
  titles,
  busy,
  onTake,
}: {
  found: FoundVariants;
  titles: ReadonlyMap<string, string>;
  busy: boolean;
  onTake: Take;
}) {
  const { variants, lacks, differences, names, onePrefix } = report;
  return (
    <>
      <p role="status" className={`py-1 ${isAgreed(report) ? 'font-medium' : 'text-warn'}`}>
        {isAgreed(report)
          ? `✓ All variants agree: one application includes the header of any of them.`
          : `△ ${lacks.length} nets are lacking somewhere, ${differences.length} properties differ, ${names.length} names are not in all headers.`}
      </p>
      <div className="overflow-x-auto">
        <table className="w-full border-collapse">
          <thead>
            <tr className="border-b border-ink text-left">
              <th className="py-1 pr-4 font-medium text-soft">Net</th>
              {variants.map((one, at) => (
                <th key={family.plans[at]} className="py-1 pr-4 align-top font-medium">
                  <Link className="link" href={`/plans/${family.plans[at]}`}>
                    {titles.get(family.plans[at] ?? '') ?? one.name}
                  </Link>{' '}
                  <span className="font-normal text-soft">
                    {one.part}, {one.package}
                  </span>
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {lacks.map((one) => (
              <tr
                key={`${one.circuit} ${one.net}`}
                className="border-b border-rule align-baseline"
                data-lack={one.net}
              >
                <td className="py-1 pr-4">
                  <b className="font-semibold">{one.net}</b> <span className="text-soft">{one.circuit}</span>
                </td>
                {one.has.map((has, at) => (
                  <td key={family.plans[at]} className="pr-4">
                    {has ? (
                      <>
                        has it{' '}
                        <May right="edit">
                          <button
                            type="button"
                            className="link ml-1"
                            disabled={busy}
                            onClick={() =>
                              onTake(at, missing(one.has), { circuit: one.circuit, net: one.net })
                            }
                          >
                            give it to all
                          </button>
                        </May>
                      </>
                    ) : (
                      <span className="text-warn">lacks it</span>
                    )}
                  </td>
                ))}
              </tr>
            ))}
            {differences.map((one) => (
              <tr
                key={`${one.circuit} ${one.net} ${one.field}`}
                className="border-b border-rule align-baseline"
                data-difference={`${one.net} ${one.field}`}
              >
                <td className="py-1 pr-4">
                  <b className="font-semibold">{one.net}</b> <span className="text-soft">{one.circuit}</span>
                  <br />
                  <span className="text-soft">{fieldTitle(one.field)}</span>
                </td>
                {one.values.map((value, at) => (
                  <td key={family.plans[at]} className="pr-4 [overflow-wrap:anywhere]">
                    {value === null ? (
                      <span className="text-soft">no such net</span>
                    ) : (
                      <>
                        <span className="m">{value === '' ? 'not said' : value}</span>{' '}
                        <May right="edit">
                          <button
                            type="button"
                            className="link ml-1"
                            disabled={busy}
                            aria-label={`${value === '' ? 'not said' : value} for all`}
                            onClick={() =>
                              onTake(at, others(one.values, at), {
                                circuit: one.circuit,
                                net: one.net,
                                field: one.field,
                              })
                            }
                          >
                            for all
                          </button>
                        </May>
                      </>
                    )}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <Names
        names={names}
        report={report}
        called={variants.map(({ name }, at) => titles.get(family.plans[at] ?? '') ?? name)}
        onePrefix={onePrefix}
      />
    </>
  );
}

const missing = (has: readonly boolean[]): number[] => has.flatMap((one, at) => (one ? [] : [at]));
const others = (values: readonly (string | null)[], at: number): number[] =>
  values.flatMap((value, other) => (other === at || value === null || value === values[at] ? [] : [other]));

/** Whether the generated headers have the same names. */
function Names({
  names,
  report,
  called,
  onePrefix,
}: { report: VariantReport; called: readonly string[] } & Pick<VariantReport, 'names' | 'onePrefix'>) {
  return (
    <section aria-label="Names of the headers" className="mt-5">
      <h2 className="border-b border-ink pb-0.5 text-[17px] font-semibold">Names of the headers</h2>
      {onePrefix ? (
        <p className="py-1">
          All begin with <span className="m">{report.variants[0]?.prefix}_</span>.
        </p>
      ) : (
        <p className="py-1 text-warn">
          They begin differently ({report.variants.map(({ prefix }) => `${prefix}_`).join(', ')}): give all
          plans the same prefix, in their inspectors.
        </p>
      )}
      {names.length === 0 ? (
        <p>In the shared circuits every name is in all of them, and declared alike.</p>
      ) : (
        <dl className="grid grid-cols-[minmax(160px,auto)_1fr] gap-x-4">
          {names.map((one) => (
            <Fragment key={one.name}>
              <dt className="m [overflow-wrap:anywhere]">{one.name}</dt>
              <dd className="[overflow-wrap:anywhere]">
                {one.declarations.map((declaration, at) => (
                  // biome-ignore lint/suspicious/noArrayIndexKey: variants keep their order
                  <span key={at} className="mr-3">
                    <span className="text-soft">{called[at]}:</span>{' '}
                    {declaration ?? <span className="text-warn">none</span>}
                  </span>
                ))}
              </dd>
            </Fragment>
          ))}
        </dl>
      )}
    </section>
  );
}
