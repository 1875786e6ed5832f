'use client';

import Link from 'next/link';
import { useRouter, useSearchParams } from 'next/navigation';
import { useEffect, useMemo, useRef, useState } from 'react';
import type { Comparison } from '@/core/compare/compare';
import type { RevisionHead } from '@/core/plan/history';
import { type PlanSummary, planTitles } from '@/core/plan/summary';
import { call } from '../client/api';
import { PageHead } from '../parts/page-head';
import { Differences } from './differences';
import { circuitsOf, inCircuit } from './in-circuit';
import { type CompareAddress, compareQuery, planOfRef, readCompare, type SideAddress } from './sides';

export interface PartLine {
  id: string;
  name: string;
  packages: { id: string; name: string }[];
}

interface Props {
  id: string;
  name: string;
  plans: readonly PlanSummary[];
  parts: readonly PartLine[];
  revisions: readonly RevisionHead[];
}

type Answered =
  | { kind: 'nothing' }
  | { kind: 'working' }
  | { kind: 'done'; comparison: Comparison }
  | { kind: 'said'; text: string };

/** What differs between two plans, two states of one, or the same plan on another part or package. */
export function ComparePage({ id, name, plans, parts, revisions }: Props) {
  const router = useRouter();
  const address = readCompare(new URLSearchParams(useSearchParams()), id);
  const { from, to, circuit } = address;
  const asked = from.ref !== '' && to.ref !== '';
  const query = asked ? compareQuery({ ...address, circuit: '' }) : '';
  const [answered, setAnswered] = useState<Answered>({ kind: 'nothing' });
  const main = useRef<HTMLElement>(null);

  useEffect(() => {
    if (query === '') {
      setAnswered({ kind: 'nothing' });
      return;
    }
    let current = true;
    setAnswered({ kind: 'working' });
    void call<Comparison>('GET', `/api/compare?${query}`).then((answer) => {
      if (!current) return;
      setAnswered(
        answer.ok
          ? { kind: 'done', comparison: answer.value }
          : {
              kind: 'said',
              text: answer.problems.map(({ place, message }) => `${place}: ${message}`).join('; '),
            },
      );
    });
    return () => {
      current = false;
    };
  }, [query]);
  useWalk(main);

  const go = (change: Partial<CompareAddress>): void =>
    router.replace(`/plans/${id}/compare?${compareQuery({ ...address, ...change })}`, { scroll: false });
  const comparison = answered.kind === 'done' ? answered.comparison : undefined;
  const circuits = useMemo(() => (comparison ? circuitsOf(comparison) : []), [comparison]);
  return (
    <div className="min-h-full">
      <div className="print:hidden">
        <PageHead here="/" />
      </div>
      <main ref={main} className="mx-auto max-w-6xl px-6 py-6">
        <div className="mb-3 flex flex-wrap items-baseline gap-x-4 gap-y-1">
          <h1 className="text-xl font-semibold">What differs</h1>
          <Link className="link print:hidden" href={`/plans/${id}`}>
            Open {name}
          </Link>
          <Link className="link print:hidden" href={`/plans/${id}/history`}>
            History
          </Link>
          {comparison && (
            <span className="ml-auto flex gap-3 print:hidden">
              <button type="button" className="link" onClick={() => window.print()}>
                Print
              </button>
              <a className="link" href={`/api/compare?${query}&as=markdown`} download>
                Markdown
              </a>
              <a className="link" href={`/api/compare?${query}&as=json`} download>
                JSON
              </a>
            </span>
          )}
        </div>
        <form
          className="grid grid-cols-[auto_1fr] items-center gap-x-3 gap-y-2 border-y border-rule py-3 print:hidden"
          onSubmit={(event) => event.preventDefault()}
        >
          <SideFields
            label="from"
            side={from}
            plans={plans}
            parts={parts}
            revisions={planOfRef(from.ref) === id ? revisions : []}
            onChange={(side) => go({ from: side })}
          />
          <SideFields
            label="to"
            side={to}
            plans={plans}
            parts={parts}
            revisions={planOfRef(to.ref) === id ? revisions : []}
            onChange={(side) => go({ to: side })}
          />
          {circuits.length > 1 && (
            <>
              <label htmlFor="compare-circuit" className="text-soft">
                circuit
              </label>
              <span className="flex items-center gap-3">
                <select
                  id="compare-circuit"
                  value={circuit}
                  onChange={(event) => go({ circuit: event.target.value })}
                >
                  <option value="">all circuits</option>
                  {circuits.map((one) => (
                    <option key={one}>{one}</option>
                  ))}
                </select>
                <span className="text-soft max-md:hidden">
                  <kbd className="kbd">J</kbd> <kbd className="kbd">K</kbd> walk from difference to difference
                </span>
              </span>
            </>
          )}
        </form>
        <div aria-live="polite">
          {answered.kind === 'nothing' && (
            <p className="py-4 text-soft">
              Choose what to compare with: another plan, a kept revision, or the same plan on another package
              or part.
            </p>
          )}
          {answered.kind === 'working' && <p className="py-4 text-soft">Comparing …</p>}
          {answered.kind === 'said' && (
            <p role="alert" className="py-4 text-err">
              {answered.text}
            </p>
          )}
        </div>
        {comparison && (
          <Differences comparison={circuit === '' ? comparison : inCircuit(comparison, circuit)} />
        )}
      </main>
    </div>
  );
}

/** J and K go from one difference to the next and the one before. */
function useWalk(area: React.RefObject<HTMLElement | null>): void {
  useEffect(() => {
    function onKeyDown(event: KeyboardEvent) {
      const target = event.target as HTMLElement;
      if (event.ctrlKey || event.metaKey || event.altKey || target.closest('input, textarea, select')) return;
      const step = event.key === 'j' ? 1 : event.key === 'k' ? -1 : 0;
      if (step === 0) return;
      const all = [...(area.current?.querySelectorAll<HTMLElement>('[data-difference]') ?? [])];
      const at = all.indexOf(document.activeElement as HTMLElement);
      const next = all[at < 0 ? (step > 0 ? 0 : all.length - 1) : at + step];
      if (!next) return;
      event.preventDefault();
      next.focus();
      next.scrollIntoView({ block: 'center' });
    }
    window.addEventListener('keydown', onKeyDown);
    return () => window.removeEventListener('keydown', onKeyDown);
  }, [area]);
}

function SideFields({
  label,
  side,
  plans,
  parts,
  revisions,
  onChange,
}: {
  label: string;
  side: SideAddress;
  plans: readonly PlanSummary[];
  parts: readonly PartLine[];
  revisions: readonly RevisionHead[];
  onChange: (side: SideAddress) => void;
}) {
  const plan = planOfRef(side.ref);
  const summary = plans.find((one) => one.id === plan);
  const part = parts.find((one) => one.id === (side.part || summary?.device));
  const moment = side.ref.slice(plan.length);
  return (
    <>
      <span className="text-soft">{label}</span>
      <span className="flex flex-wrap gap-x-2 gap-y-1">
        <select
          aria-label={`${label}: plan`}
          className="max-w-64"
          value={plan}
          onChange={(event) => onChange({ ref: event.target.value, part: '', package: '' })}
        >
          <option value="" disabled>
            a plan …
          </option>
          {[...planTitles(plans)].map(([id, title]) => (
            <option key={id} value={id}>
              {title}
            </option>
          ))}
        </select>
        <select
          aria-label={`${label}: moment`}
          value={moment}
          disabled={plan === ''}
          onChange={(event) => onChange({ ...side, ref: `${plan}${event.target.value}` })}
        >
          <option value="">as it is now</option>
          {moment.startsWith('@') && <option value={moment}>edit {moment.slice(1)}</option>}
          {moment.startsWith('~') && !revisions.some((one) => `~${one.name}` === moment) && (
            <option value={moment}>revision {moment.slice(1)}</option>
          )}
          {revisions.map((one) => (
            <option key={one.name} value={`~${one.name}`}>
              revision {one.name}
            </option>
          ))}
        </select>
        <select
          aria-label={`${label}: part`}
          className="max-w-56"
          value={side.part}
          disabled={plan === ''}
          onChange={(event) =>
            onChange({ ...side, part: event.target.value, package: firstPackage(parts, event.target.value) })
          }
        >
          <option value="">on its part</option>
          {parts
            .filter((one) => one.id !== summary?.device)
            .map((one) => (
              <option key={one.id} value={one.id}>
                on {one.name}
              </option>
            ))}
        </select>
        <select
          aria-label={`${label}: package`}
          value={side.package}
          disabled={plan === ''}
          onChange={(event) => onChange({ ...side, package: event.target.value })}
        >
          {side.part === '' && <option value="">in its package</option>}
          {part?.packages.map((one) => (
            <option key={one.id} value={one.id}>
              in {one.name}
            </option>
          ))}
        </select>
      </span>
    </>
  );
}

const firstPackage = (parts: readonly PartLine[], id: string): string =>
  parts.find((one) => one.id === id)?.packages[0]?.id ?? '';
