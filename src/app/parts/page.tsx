import type { Metadata } from 'next';
import { listParts } from '@/server/parts';
import { PartList } from '@/ui/part/part-list';

export const dynamic = 'force-dynamic';
export const metadata: Metadata = { title: 'Parts · Mavrek' };

export default async function PartsPage() {
  return <PartList parts={await listParts()} />;
}
