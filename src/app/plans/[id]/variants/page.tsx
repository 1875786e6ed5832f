import type { Metadata } from 'next';
import { notFound } from 'next/navigation';
import { listPlans, readPlan } from '@/server/plans';
import { VariantsPage } from '@/ui/variants/variants-page';

export const dynamic = 'force-dynamic';

interface Props {
  params: Promise<{ id: string }>;
}

export async function generateMetadata({ params }: Props): Promise<Metadata> {
  const current = await readPlan((await params).id);
  return { title: current ? `Variants of ${current.plan.name} · Mavrek` : 'Mavrek' };
}

export default async function Page({ params }: Props) {
  const { id } = await params;
  const [current, plans] = await Promise.all([readPlan(id), listPlans()]);
  if (!current) notFound();
  return (
    <VariantsPage
      id={id}
      name={current.plan.name}
      circuits={current.plan.circuits.map(({ name }) => name)}
      plans={plans.filter((plan) => plan.deletedAt === null)}
    />
  );
}
