import type { Metadata } from 'next';
import { listParts } from '@/server/parts';
import { ImportPage } from '@/ui/import/import-page';

export const dynamic = 'force-dynamic';
export const metadata: Metadata = { title: 'Import a part · Mavrek' };

interface Props {
  searchParams: Promise<{ part?: string; like?: string }>;
}

export default async function Import({ searchParams }: Props) {
  const parts = await listParts();
  const { part, like } = await searchParams;
  const known = parts.map(({ id, name, revision }) => ({ id, name, revision }));
  const idOf = (wanted: string | undefined) => known.find((one) => one.id === wanted)?.id;
  return <ImportPage known={known} part={idOf(part)} like={idOf(like)} />;
}
