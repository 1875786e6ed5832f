import { newId } from '@/core/base/text/new-id';
import type { Plan } from '@/core/plan/model/types';
import type { Present } from '@/core/review/presence';
import { call } from './api';
import { authorName } from './author';
import { refreshComments } from './comments';
import { type KeptEdits, printKept, readKept } from './kept-edits';
import {
  createPlanSession,
  type MetEdit,
  type PendingEdit,
  type PlanSession,
  type SendResult,
  type ServerEdit,
} from './plan-session';
import { openPresence, receivePresence } from './presence';

/** Opens a session against the real server: edits by POST, news by server-sent events, unconfirmed edits in the browser. */
export function connectPlan(
  id: string,
  start: { plan: Plan; seq: number },
  refuses?: string,
): { session: PlanSession; close(): void } {
  const client = newId();
  const session = createPlanSession(
    { ...start, ...(refuses === undefined ? adoptKept(id) : {}) },
    {
      send: async ({ editId, edit, madeAgainst }) => {
        const answer = await call<SendResult>('POST', `/api/plans/${id}/edits`, {
          editId,
          client,
          author: authorName(),
          madeAgainst,
          edit,
        });
        if (answer.ok) return answer.value;
        switch (answer.status) {
          case 404:
            return { status: 'gone' };
          case 401:
            return {
              status: 'unreachable',
              why: 'You are signed out. What you changed is kept in this browser: sign in in another tab, and it is sent.',
            };
          case 400:
          case 403:
          case 413:
          case 415:
          case 422:
            return { status: 'invalid', problems: answer.problems };
          default:
            return { status: 'unreachable' };
        }
      },
      keep: (pending, met) => keep(id, client, pending, met),
      newEditId: newId,
      now: () => Date.now(),
      later: (milliseconds, work) => setTimeout(work, milliseconds),
      refuses,
    },
  );
  // What was said while the plan was not open here.
  refreshComments(id);
  const leave = openPresence(id, client);
  const stopListening = listen(id, session);
  const online = (): void => session.retry();
  window.addEventListener('online', online);
  return {
    session,
    close() {
      leave();
      stopListening();
      window.removeEventListener('online', online);
    },
  };
}

function listen(id: string, session: PlanSession): () => void {
  let source: EventSource | undefined;
  let timer: ReturnType<typeof setTimeout> | undefined;
  let closed = false;
  const open = (): void => {
    source = new EventSource(`/api/plans/${id}/events?after=${session.getState().seq}`);
    source.onmessage = (message) => {
      session.receive([JSON.parse(message.data) as ServerEdit]);
      session.retry();
    };
    source.addEventListener('comments', () => refreshComments(id));
    source.addEventListener('presence', (message) =>
      receivePresence(id, JSON.parse((message as MessageEvent<string>).data) as Present[]),
    );
    source.onerror = () => {
      // The browser gives up for good on some errors; opening anew asks for what is missing by its own number.
      source?.close();
      if (!closed) timer = setTimeout(open, 1500);
    };
  };
  open();
  return () => {
    closed = true;
    clearTimeout(timer);
    source?.close();
  };
}

/** Each tab keeps its own list; whoever opens the plan next sends what was left, which the server stores once. */
const keyOf = (id: string, client: string): string => `mavrek:unsaved:${id}:${client}`;

function keep(id: string, client: string, pending: readonly PendingEdit[], met: readonly MetEdit[]): void {
  try {
    if (pending.length + met.length === 0) localStorage.removeItem(keyOf(id, client));
    else localStorage.setItem(keyOf(id, client), printKept(pending, met));
  } catch {
    // Private windows may have no storage; the edits are still in memory and still being sent.
  }
}

/** Takes over what other tabs left behind unsaved. */
function adoptKept(id: string): KeptEdits {
  const all: KeptEdits = { pending: [], met: [] };
  try {
    for (const key of Object.keys(localStorage).filter((each) => each.startsWith(keyOf(id, '')))) {
      const { pending, met } = readKept(localStorage.getItem(key));
      all.pending.push(...pending);
      all.met.push(...met);
      localStorage.removeItem(key);
    }
  } catch {
    // Without storage nothing was kept.
  }
  return all;
}
