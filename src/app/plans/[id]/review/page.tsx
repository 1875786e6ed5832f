import type { Metadata } from 'next';
import { notFound } from 'next/navigation';
import { listRevisions } from '@/server/history';
import { readPlan } from '@/server/plans';
import { listComments } from '@/server/review';
import { reviewedRevision } from '@/server/reviewed';
import { ReviewPage } from '@/ui/review/review-page';

export const dynamic = 'force-dynamic';

interface Props {
  params: Promise<{ id: string }>;
  searchParams: Promise<{ revision?: string }>;
}

export async function generateMetadata({ params }: Props): Promise<Metadata> {
  const current = await readPlan((await params).id);
  return { title: current ? `Review of ${current.plan.name} · Mavrek` : 'Mavrek' };
}

export default async function Page({ params, searchParams }: Props) {
  const { id } = await params;
  const { revision } = await searchParams;
  const current = await readPlan(id);
  if (!current) notFound();
  const [revisions, comments, reviewed] = await Promise.all([
    listRevisions(id),
    listComments(id),
    reviewedRevision(id, revision),
  ]);
  if (revision !== undefined && !reviewed) notFound();
  const { plan } = current;
  return (
    <ReviewPage
      id={id}
      name={plan.name}
      nets={plan.nets.map((net) => ({ id: net.id, name: net.name }))}
      revisions={revisions}
      comments={comments}
      reviewed={
        reviewed && {
          name: reviewed.revision.name,
          seq: reviewed.revision.seq,
          note: reviewed.revision.note,
          author: reviewed.revision.author,
          at: reviewed.revision.at,
          fingerprint: reviewed.revision.fingerprint,
          findings: reviewed.revision.findings.map(({ rule, severity, message, waived }) => ({
            rule,
            severity,
            message,
            waived,
          })),
          waivers: (reviewed.revision.plan.waivers ?? []).map((one) => ({
            ...one,
            nets: one.nets.map(
              (net) => reviewed.revision.plan.nets.find(({ id: own }) => own === net)?.name ?? net,
            ),
          })),
          counts: Object.fromEntries(
            reviewed.revision.plan.circuits.map((circuit) => [
              circuit.id,
              reviewed.revision.plan.nets.filter((net) => net.circuit === circuit.id).length,
            ]),
          ),
          review: reviewed.review,
          signature: reviewed.signature ?? null,
        }
      }
    />
  );
}
