import type { Metadata } from 'next';
import { notFound } from 'next/navigation';
import { headingOf, SCHEDULE_COLUMNS } from '@/core/output/board/schedule';
import { signatureText } from '@/core/review/review';
import { workOnPart } from '@/server/parts';
import { planOnPart } from '@/server/plan-on-part';
import { readPlan } from '@/server/plans';
import { signedRevision } from '@/server/reviewed';
import { SchedulePage } from '@/ui/board/schedule-page';

export const dynamic = 'force-dynamic';

interface Props {
  params: Promise<{ id: string }>;
  searchParams: Promise<{ at?: string }>;
}

export async function generateMetadata({ params }: Pick<Props, 'params'>): Promise<Metadata> {
  const current = await readPlan((await params).id);
  return { title: current ? `Pin schedule of ${current.plan.name} · Mavrek` : 'Mavrek' };
}

/** The pin schedule as a page to be printed. */
export default async function Page({ params, searchParams }: Props) {
  const { id } = await params;
  const { at } = await searchParams;
  const current = await planOnPart(id, at === undefined ? undefined : Number(at));
  const table = current && (await workOnPart('scheduleTable', current.part, { plan: current.plan }));
  if (!current || !table?.ok) notFound();
  const { plan } = current;
  const signed = await signedRevision(id);
  const { part, package: pkg, fingerprint, rows } = table.value;
  return (
    <SchedulePage
      id={id}
      title={plan.revision ? `${plan.name}, revision ${plan.revision}` : plan.name}
      subtitle={`${part} in ${pkg} · content ${fingerprint}`}
      headings={SCHEDULE_COLUMNS.map(headingOf)}
      rows={rows}
      signature={signed ? signatureText(signed.revision, signed, fingerprint) : null}
    />
  );
}
