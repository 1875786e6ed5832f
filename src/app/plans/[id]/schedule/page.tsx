import type { Metadata } from 'next';
import { notFound } from 'next/navigation';
import { headingOf, SCHEDULE_COLUMNS, scheduleRows } from '@/core/board/schedule';
import { derivedPlan } from '@/server/derived';
import { SchedulePage } from '@/ui/board/schedule-page';

export const dynamic = 'force-dynamic';

interface Props {
  params: Promise<{ id: string }>;
}

export async function generateMetadata({ params }: Props): Promise<Metadata> {
  const derived = await derivedPlan((await params).id);
  return { title: derived ? `Pin schedule of ${derived.plan.name} · Mavrek` : 'Mavrek' };
}

/** The pin schedule as a page to be printed. */
export default async function Page({ params }: Props) {
  const { id } = await params;
  const derived = await derivedPlan(id);
  if (!derived) notFound();
  const { plan, device, pkg, fingerprint } = derived;
  return (
    <SchedulePage
      id={id}
      title={plan.revision ? `${plan.name}, revision ${plan.revision}` : plan.name}
      subtitle={`${device.description.name} in ${pkg.name} · content ${fingerprint}`}
      headings={SCHEDULE_COLUMNS.map(headingOf)}
      rows={scheduleRows(derived).map((row) => SCHEDULE_COLUMNS.map((column) => row[column]))}
    />
  );
}
