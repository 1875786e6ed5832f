import { whyNotReady } from '@/server/ready';
import { answer, refuse, route } from '../http';

export const dynamic = 'force-dynamic';

/**
 * Answers 200 when the server can do its work, with a database that has its schema; 503 when it has another one. `instance` is what
 * its launcher knows it by.
 */
export const GET = route(async () => {
  const message = await whyNotReady();
  return message === undefined
    ? answer({ ok: true, instance: process.env.MAVREK_INSTANCE ?? '' })
    : refuse(503, { place: 'server', message });
});
