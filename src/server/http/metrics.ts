import type { IncomingMessage, ServerResponse } from 'node:http';
import type pg from 'pg';
import { Counter, collectDefaultMetrics, Gauge, Histogram, Registry } from 'prom-client';

/** What the server counts, for a monitor: `/api/metrics` in the text format of Prometheus. Nothing of plans or people is in it. */
const registry = new Registry();
collectDefaultMetrics({ register: registry, prefix: 'mavrek_' });

const KINDS = ['edit', 'stream', 'api', 'page'] as const;
type Kind = (typeof KINDS)[number];

/** What a request is for, in few words: addresses would be as many as plans. */
export function kindOf(method: string, url: string): Kind {
  const path = url.split('?')[0] ?? '';
  if (!path.startsWith('/api/')) return 'page';
  if (/^\/api\/plans\/[^/]+\/events$/.test(path)) return 'stream';
  return method === 'POST' && /^\/api\/plans\/[^/]+\/edits$/.test(path) ? 'edit' : 'api';
}

const requests = new Counter({
  name: 'mavrek_requests_total',
  help: 'Requests that were answered, by what they are for and the hundred of the answer.',
  labelNames: ['kind', 'status'],
  registers: [registry],
});
const seconds = new Histogram({
  name: 'mavrek_request_seconds',
  help: 'Seconds until a request was answered; streams do not count.',
  labelNames: ['kind'],
  buckets: [0.005, 0.01, 0.025, 0.05, 0.1, 0.15, 0.25, 0.5, 1, 2.5, 10],
  registers: [registry],
});
const streams = new Gauge({
  name: 'mavrek_streams',
  help: 'Pages that are told of edits as they come.',
  registers: [registry],
});
new Gauge({
  name: 'mavrek_database_connections',
  help: 'Connections to the database, by what they do; waiting are requests without one.',
  labelNames: ['state'],
  registers: [registry],
  collect() {
    const { mavrekPool: pool } = globalThis as typeof globalThis & { mavrekPool?: pg.Pool };
    this.set({ state: 'open' }, pool?.totalCount ?? 0);
    this.set({ state: 'idle' }, pool?.idleCount ?? 0);
    this.set({ state: 'waiting' }, pool?.waitingCount ?? 0);
  },
});

/** Counts a request when it has been answered. */
export function measure(request: IncomingMessage, response: ServerResponse): void {
  const kind = kindOf(request.method ?? 'GET', request.url ?? '');
  const began = performance.now();
  if (kind === 'stream') streams.inc();
  response.once('close', () => {
    requests.inc({ kind, status: `${Math.floor(response.statusCode / 100)}xx` });
    if (kind === 'stream') streams.dec();
    else seconds.observe({ kind }, (performance.now() - began) / 1000);
  });
}

/** Answers `/api/metrics`; false for everything else. */
export function answersMetrics(request: IncomingMessage, response: ServerResponse): boolean {
  if (request.method !== 'GET' || !/^\/api\/metrics(\?|$)/.test(request.url ?? '')) return false;
  registry
    .metrics()
    .then((text) => {
      response.writeHead(200, { 'content-type': registry.contentType, 'cache-control': 'no-store' });
      response.end(text);
    })
    .catch(() => response.destroy());
  return true;
}
