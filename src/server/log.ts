import pino from 'pino';

/** One JSON line an event, to standard output; the launcher puts it into .mavrek/log. */
export const log = pino({ level: process.env.LOG_LEVEL ?? 'info', base: null });
