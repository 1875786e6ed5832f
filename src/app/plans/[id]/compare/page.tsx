import type { Metadata } from 'next';
import { notFound } from 'next/navigation';
import { listRevisions } from '@/server/history';
import { listParts } from '@/server/parts';
import { listPlans, readPlan } from '@/server/plans';
import { ComparePage } from '@/ui/compare/compare-page';

export const dynamic = 'force-dynamic';

interface Props {
  params: Promise<{ id: string }>;
}

export async function generateMetadata({ params }: Props): Promise<Metadata> {
  const current = await readPlan((await params).id);
  return { title: current ? `Compare ${current.plan.name} · Mavrek` : 'Mavrek' };
}

export default async function Page({ params }: Props) {
  const { id } = await params;
  const [current, plans, parts, revisions] = await Promise.all([
    readPlan(id),
    listPlans(),
    listParts(),
    listRevisions(id),
  ]);
  if (!current) notFound();
  return (
    <ComparePage
      id={id}
      name={current.plan.name}
      plans={plans.filter((plan) => plan.deletedAt === null)}
      parts={parts.map(({ id: part, name, packages }) => ({ id: part, name, packages }))}
      revisions={revisions}
    />
  );
}
