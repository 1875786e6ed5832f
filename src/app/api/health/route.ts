import { query } from '@/server/db';
import { answer, route } from '../http';

export const dynamic = 'force-dynamic';

/** Answers 200 when the server can do its work, database included. `instance` is what its launcher knows it by. */
export const GET = route(async () => {
  await query('select 1');
  return answer({ ok: true, instance: process.env.MAVREK_INSTANCE ?? '' });
});
