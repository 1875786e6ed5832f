import { oneExport } from '@/server/exports';
import { answer, notFound, route } from '../../../../http';

export const dynamic = 'force-dynamic';

/** One export, with its files as they were. */
export const GET = route<{ id: string; number: string }>(async (_request, { id, number }) => {
  const found = /^[0-9]{1,15}$/.test(number) ? await oneExport(id, Number(number)) : undefined;
  return found ? answer(found) : notFound('export');
});
