import type { Metadata } from 'next';
import { notFound } from 'next/navigation';
import { listRevisions, planHistory } from '@/server/history';
import { readPlan } from '@/server/plans';
import { HistoryPage } from '@/ui/history/history-page';

export const dynamic = 'force-dynamic';

interface Props {
  params: Promise<{ id: string }>;
}

export async function generateMetadata({ params }: Props): Promise<Metadata> {
  const current = await readPlan((await params).id);
  return { title: current ? `History of ${current.plan.name} · Mavrek` : 'Mavrek' };
}

export default async function Page({ params }: Props) {
  const { id } = await params;
  const [current, history, revisions] = await Promise.all([readPlan(id), planHistory(id), listRevisions(id)]);
  if (!current || !history) notFound();
  const { name, revision } = current.plan;
  return (
    <HistoryPage
      id={id}
      name={name}
      revision={revision}
      seq={current.seq}
      history={history}
      revisions={revisions}
    />
  );
}
