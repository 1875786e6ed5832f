import type { Metadata } from 'next';
import { listParts } from '@/server/parts';
import { ImportPage } from '@/ui/import/import-page';

export const dynamic = 'force-dynamic';
export const metadata: Metadata = { title: 'Import a part · Mavrek' };

interface Props {
  searchParams: Promise<{ part?: string }>;
}

export default async function Import({ searchParams }: Props) {
  const parts = await listParts();
  const { part } = await searchParams;
  const known = parts.map(({ id, name, revision }) => ({ id, name, revision }));
  return <ImportPage known={known} part={known.find((one) => one.id === part)?.id} />;
}
