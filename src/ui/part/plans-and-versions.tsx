import Link from 'next/link';
import type { PartSummary } from '@/core/device/part-facts';
import { ScrollRegion } from '../parts/scroll-region';

export interface PlanLine {
  id: string;
  name: string;
  revision: string;
  package: string;
  fingerprint: string;
}

interface Props {
  plans: PlanLine[];
  versions: { fingerprint: string; at: string }[];
  summary: PartSummary;
}

const date = (text: string): string =>
  new Date(text).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'short' });

/** Which plans use the part, on which description; and what it was before. */
export function PlansAndVersions({ plans, versions, summary }: Props) {
  return (
    <ScrollRegion label="Plans and versions" className="h-full px-6 py-3">
      <h2 className="font-semibold">Plans on this part</h2>
      {plans.length === 0 ? (
        <p className="text-soft">None yet.</p>
      ) : (
        <ul className="mt-1 max-w-3xl">
          {plans.map((plan) => (
            <li key={plan.id} className="flex items-baseline gap-3 border-b border-rule py-1">
              <Link prefetch={false} className="font-medium hover:underline" href={`/plans/${plan.id}`}>
                {plan.name}
              </Link>
              <span className="text-soft">{plan.revision && `rev ${plan.revision}`}</span>
              <span className="text-soft">
                {summary.packages.find((one) => one.id === plan.package)?.name ?? plan.package}
              </span>
              <span className="ml-auto text-soft">
                {plan.fingerprint === summary.fingerprint || plan.fingerprint === ''
                  ? "on today's description"
                  : 'on an earlier description; open it to see what taking over changes'}
              </span>
            </li>
          ))}
        </ul>
      )}
      <h2 className="mt-5 font-semibold">Descriptions it has had</h2>
      <ul className="mt-1 max-w-3xl">
        {versions.map((version) => (
          <li key={version.fingerprint} className="flex gap-3 border-b border-rule py-1">
            <span className="m">{version.fingerprint}</span>
            <span className="text-soft" suppressHydrationWarning>
              {date(version.at)}
            </span>
            <span className="ml-auto text-soft">
              {version.fingerprint === summary.fingerprint ? 'today' : 'kept for the plans made against it'}
            </span>
          </li>
        ))}
      </ul>
    </ScrollRegion>
  );
}
