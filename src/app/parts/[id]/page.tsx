import type { Metadata } from 'next';
import { notFound } from 'next/navigation';
import { partSummary, plansOfPart, versionsOfPart } from '@/server/parts';
import { PartPage } from '@/ui/part/part-page';

export const dynamic = 'force-dynamic';

interface Props {
  params: Promise<{ id: string }>;
}

export async function generateMetadata({ params }: Props): Promise<Metadata> {
  const part = await partSummary((await params).id);
  return { title: part ? `${part.name} · Mavrek` : 'Mavrek' };
}

export default async function Part({ params }: Props) {
  const { id } = await params;
  const part = await partSummary(id);
  if (!part) notFound();
  const [plans, versions] = await Promise.all([plansOfPart(id), versionsOfPart(id)]);
  return <PartPage key={part.fingerprint} summary={part} plans={plans} versions={versions} />;
}
