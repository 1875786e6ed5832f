import type { Metadata } from 'next';
import { notFound } from 'next/navigation';
import { listRevisions, planAt } from '@/server/history';
import { findPlanPart } from '@/server/parts';
import { OpenPlan } from '@/ui/workspace/open-plan';

export const dynamic = 'force-dynamic';

interface Props {
  params: Promise<{ id: string; seq: string }>;
}

const momentOf = async ({ params }: Props) => {
  const { id, seq } = await params;
  const then = /^\d{1,15}$/.test(seq) ? await planAt(id, Number(seq)) : undefined;
  return then && { id, ...then };
};

export async function generateMetadata(props: Props): Promise<Metadata> {
  const then = await momentOf(props);
  return { title: then ? `${then.plan.name} as it was at edit ${then.seq} · Mavrek` : 'Mavrek' };
}

/** A plan as it was behind an edit: every view, and nothing to change. */
export default async function Page(props: Props) {
  const then = await momentOf(props);
  if (!then) notFound();
  const revision = (await listRevisions(then.id)).find((one) => one.seq === then.seq);
  const part = await findPlanPart(then.plan);
  return (
    <OpenPlan
      id={then.id}
      plan={then.plan}
      seq={then.seq}
      today={part?.fingerprint ?? null}
      moment={revision ? `revision ${revision.name}` : `edit ${then.seq}`}
    />
  );
}
