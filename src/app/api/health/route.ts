import { readiness } from '@/server/ready';
import { answer, refuse, route } from '../http';

export const dynamic = 'force-dynamic';

/**
 * Answers 200 when the server can do its work, with a database that has its schema and leads; 503 when it cannot. `instance` is what
 * its launcher knows it by. `standby` says, where one is expected, whether another node has all that is acknowledged: without it
 * people can work, and what they do is on one disk only.
 */
export const GET = route(async () => {
  const { why, standby } = await readiness();
  return why === undefined
    ? answer({ ok: true, instance: process.env.MAVREK_INSTANCE ?? '', ...(standby ? { standby } : {}) })
    : refuse(503, { place: 'server', message: why });
});
