import type { Metadata } from 'next';
import { notFound } from 'next/navigation';
import { tagOf } from '@/core/plan/summary';
import { findPart } from '@/server/parts';
import { countNamesakes, readPlan } from '@/server/plans';
import { OpenPlan } from '@/ui/workspace/open-plan';

export const dynamic = 'force-dynamic';

interface Props {
  params: Promise<{ id: string }>;
}

export async function generateMetadata({ params }: Props): Promise<Metadata> {
  const { id } = await params;
  const current = await readPlan(id);
  if (!current) return { title: 'Mavrek' };
  const tag = (await countNamesakes(id)) > 0 ? ` (${tagOf(id)})` : '';
  return { title: `${current.plan.name} ${current.plan.revision}${tag} · Mavrek` };
}

export default async function PlanPage({ params }: Props) {
  const { id } = await params;
  const current = await readPlan(id);
  if (!current) notFound();
  return (
    <OpenPlan
      id={id}
      plan={current.plan}
      seq={current.seq}
      today={(await findPart(current.plan.device))?.fingerprint ?? null}
    />
  );
}
