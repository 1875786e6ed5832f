import { answer, route } from '../http';

export const dynamic = 'force-dynamic';

/** Answers 200 as long as the process does, whatever its database does: what is restarted for not answering this needs it. */
export const GET = route(async () => answer({ ok: true, instance: process.env.MAVREK_INSTANCE ?? '' }));
