import type { Problem } from '@/core/base/problems';
import { applyEdit, describeEdit, type Edit, editAgain, invertEdit } from '@/core/plan/edits/edits';
import type { Plan } from '@/core/plan/model/types';

/**
 * One open plan: what the server has confirmed, the edits on their way, and the plan as the user sees it, which is the
 * one with the other on top. An edit shows at once, is sent in order, and is kept (in the browser's storage too) until the
 * server has confirmed it.
 */
export interface SessionState {
  /** As the user sees it. */
  plan: Plan;
  /** Sequence number of the newest confirmed edit. */
  seq: number;
  pending: readonly PendingEdit[];
  save: SaveState;
  undo: readonly Edit[];
  redo: readonly Edit[];
  /** The last thing the user must know. */
  notice: string | null;
  /** Edits that met those of others, in their order: somebody must say which is meant. */
  met: readonly MetEdit[];
}

/** An edit that did not apply any more when it reached the plan. */
export interface MetEdit {
  editId: string;
  edit: Edit;
  /** What it was to do, in words. */
  words: string;
  /** Why it does not apply, in words: what stands there now. */
  why: string;
}

export interface PendingEdit {
  editId: string;
  edit: Edit;
}

export type SaveState =
  | { kind: 'saved'; at: number | null }
  | { kind: 'saving' }
  | { kind: 'retrying'; attempt: number }
  | { kind: 'gone' }
  /** It is looked at as it was once; nothing can be changed. */
  | { kind: 'past' }
  /** Whoever looks may not change it; what others change is seen. */
  | { kind: 'reading' };

/** An edit as the server tells of it. */
export interface ServerEdit {
  seq: number;
  editId: string;
  edit: Edit;
}

export type SendResult =
  | { status: 'saved' | 'refused'; edits: ServerEdit[]; problems?: Problem[] }
  | { status: 'invalid'; problems: Problem[] }
  | { status: 'gone' }
  /** What is pending waits: `why` says for what, where that is not the network. */
  | { status: 'unreachable'; why?: string };

/** How a session reaches the world; replaced in tests. */
export interface SessionPorts {
  send(entry: PendingEdit & { madeAgainst: number }): Promise<SendResult>;
  /** Where unconfirmed edits, and those that wait for a decision, survive a closed tab. */
  keep(pending: readonly PendingEdit[], met: readonly MetEdit[]): void;
  newEditId(): string;
  now(): number;
  later(milliseconds: number, work: () => void): void;
  /** Why nothing can be changed here, where that is so. */
  refuses?: string | undefined;
}

export interface PlanSession {
  getState(): SessionState;
  subscribe(listener: () => void): () => void;
  /** Applies an edit at once and sends it. Returns false (with a notice) when it does not apply. */
  dispatch(edit: Edit): boolean;
  undo(): void;
  redo(): void;
  /** Edits told by the server, from here or elsewhere. */
  receive(edits: readonly ServerEdit[]): void;
  /** Tries again now, when the network is back. */
  retry(): void;
  /** Makes an edit that met another one after all, over what stands there now; false (with a notice) when it cannot be any more. */
  takeMine(editId: string): boolean;
  /** Lets what others made stand. */
  leaveTheirs(editId: string): void;
  /** Tells the user something. */
  notify(notice: string): void;
  dismissNotice(): void;
}

/** A plan as it was once: it can be looked at in every view, and every edit is refused with the reason. */
export function pastSession(plan: Plan, seq: number, why: string): PlanSession {
  let state: SessionState = {
    plan,
    seq,
    pending: [],
    save: { kind: 'past' },
    undo: [],
    redo: [],
    notice: null,
    met: [],
  };
  const listeners = new Set<() => void>();
  const notify = (notice: string | null): void => {
    state = { ...state, notice };
    for (const listener of listeners) listener();
  };
  const nothing = (): void => undefined;
  return {
    getState: () => state,
    subscribe(listener) {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
    dispatch() {
      notify(why);
      return false;
    },
    undo: nothing,
    redo: nothing,
    receive: nothing,
    retry: nothing,
    takeMine: () => false,
    leaveTheirs: nothing,
    notify,
    dismissNotice: () => notify(null),
  };
}

const LONGEST_UNDO = 500;
const LONGEST_PAUSE_MS = 8000;

export function createPlanSession(
  start: { plan: Plan; seq: number; pending?: readonly PendingEdit[]; met?: readonly MetEdit[] },
  ports: SessionPorts,
): PlanSession {
  let confirmed = start.plan;
  let state: SessionState = {
    plan: start.plan,
    seq: start.seq,
    pending: [],
    save: ports.refuses === undefined ? { kind: 'saved', at: null } : { kind: 'reading' },
    undo: [],
    redo: [],
    notice: null,
    met: start.met ?? [],
  };
  const listeners = new Set<() => void>();
  let sending = false;
  let attempt = 0;

  const update = (change: Partial<SessionState>): void => {
    const { pending, met } = state;
    state = { ...state, ...change };
    if (state.pending !== pending || state.met !== met) ports.keep(state.pending, state.met);
    for (const listener of listeners) listener();
  };

  /** The user's view: confirmed plan with the pending edits on top; those that no longer apply fall out. */
  const rebuild = (
    pending: readonly PendingEdit[],
  ): Pick<SessionState, 'plan' | 'pending' | 'met' | 'undo'> => {
    let plan = confirmed;
    let { met, undo } = state;
    const kept: PendingEdit[] = [];
    for (const entry of pending) {
      const next = applyEdit(plan, entry.edit);
      if (next.ok) {
        plan = next.value;
        kept.push(entry);
      } else {
        met = withMet(met, entry, next.problems[0]?.message ?? '');
        undo = undo.filter((edit) => edit !== entry.edit);
      }
    }
    return { plan, pending: kept, met, undo };
  };

  const withMet = (met: readonly MetEdit[], { editId, edit }: PendingEdit, why: string): MetEdit[] => [
    ...met.filter((each) => each.editId !== editId),
    { editId, edit, why, words: describeEdit(state.plan, edit) },
  ];

  /** Applies and sends an edit; what is wrong when it does not apply. */
  const push = (edit: Edit): { why: string } | undefined => {
    const next = applyEdit(state.plan, edit);
    if (!next.ok) return { why: next.problems[0]?.message ?? '' };
    const pending = [...state.pending, { editId: ports.newEditId(), edit }];
    update({ plan: next.value, pending, notice: null, save: attempt > 0 ? state.save : { kind: 'saving' } });
    void pump();
    return undefined;
  };

  /** A step of undo or redo; one that others have made impossible joins what waits for a decision. */
  const walk = (edit: Edit, change: Pick<SessionState, 'undo' | 'redo'>, back: boolean): void => {
    if (ports.refuses !== undefined) {
      update({ notice: ports.refuses });
      return;
    }
    const step = back ? invertEdit(edit) : edit;
    const refused = push(step);
    if (!refused) update(change);
    else
      update({
        undo: state.undo.filter((each) => each !== edit),
        redo: state.redo.filter((each) => each !== edit),
        met: withMet(state.met, { editId: ports.newEditId(), edit: step }, refused.why),
      });
  };

  const receive = (edits: readonly ServerEdit[]): void => {
    let pending = state.pending;
    let seq = state.seq;
    // Hearing that one's own edits are stored, in their order, changes nothing in what the user sees.
    let news = false;
    let { met } = state;
    for (const arrived of edits) {
      if (arrived.seq <= seq) continue;
      news ||= pending[0]?.editId !== arrived.editId;
      const next = applyEdit(confirmed, arrived.edit);
      // Only a program error could make a logged edit not apply; then the server's plan must be read anew.
      if (!next.ok) {
        update({ notice: 'This view has fallen behind; please reload the page.' });
        return;
      }
      confirmed = next.value;
      seq = arrived.seq;
      pending = pending.filter((entry) => entry.editId !== arrived.editId);
      // Stored after all, although its answer was lost: nothing is left to decide.
      met = met.some((each) => each.editId === arrived.editId)
        ? met.filter((each) => each.editId !== arrived.editId)
        : met;
    }
    if (seq === state.seq) return;
    if (met !== state.met) update({ met });
    const rebuilt = news ? rebuild(pending) : { pending };
    update({ seq, ...rebuilt, save: settled(rebuilt.pending) });
  };

  const saveAfter = (pending: readonly PendingEdit[]): SaveState =>
    ports.refuses !== undefined
      ? { kind: 'reading' }
      : pending.length > 0
        ? { kind: 'saving' }
        : { kind: 'saved', at: ports.now() };

  /** The state after news from the server, which do not end a failure to send. */
  const settled = (pending: readonly PendingEdit[]): SaveState =>
    state.save.kind === 'gone' || (pending.length > 0 && state.save.kind === 'retrying')
      ? state.save
      : saveAfter(pending);

  /** Sends what is pending, one at a time and in order. */
  const pump = async (): Promise<void> => {
    if (sending || state.save.kind === 'gone') return;
    const entry = state.pending[0];
    if (!entry) return;
    sending = true;
    const result = await ports.send({ ...entry, madeAgainst: state.seq });
    sending = false;
    switch (result.status) {
      case 'saved':
        attempt = 0;
        receive(result.edits);
        drop(entry.editId, null);
        break;
      case 'refused':
        attempt = 0;
        receive(result.edits);
        drop(entry.editId, result.problems?.[0]?.message ?? null, true);
        break;
      case 'invalid':
        attempt = 0;
        drop(entry.editId, result.problems[0]?.message ?? 'the server did not take it');
        break;
      case 'gone':
        update({
          save: { kind: 'gone' },
          notice: 'This plan was deleted elsewhere. Bring it back from the list of plans.',
        });
        return;
      case 'unreachable':
        attempt++;
        update({
          save: { kind: 'retrying', attempt },
          ...(result.why === undefined ? {} : { notice: result.why }),
        });
        ports.later(Math.min(250 * 2 ** attempt, LONGEST_PAUSE_MS), () => void pump());
        return;
    }
    void pump();
  };

  /** Takes an edit off the list of pending ones if it is still there, telling the reason if it was refused. */
  const drop = (editId: string, why: string | null, met = false): void => {
    const pending = state.pending.filter((entry) => entry.editId !== editId);
    if (pending.length === state.pending.length && why === null) {
      // The server has answered again; what is left follows.
      if (state.save.kind === 'retrying') update({ save: saveAfter(pending) });
      return;
    }
    const rebuilt = rebuild(pending);
    const entry = state.pending.find((each) => each.editId === editId);
    const dropped = entry?.edit;
    const undo = why === null ? rebuilt.undo : rebuilt.undo.filter((edit) => edit !== dropped);
    update({
      ...rebuilt,
      ...(why !== null && !met ? { notice: `A change was not applied: ${why}.` } : {}),
      ...(why !== null && met && entry ? { met: withMet(rebuilt.met, entry, why) } : {}),
      undo,
      save: saveAfter(rebuilt.pending),
    });
  };

  const session: PlanSession = {
    getState: () => state,
    subscribe(listener) {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
    dispatch(edit) {
      if (ports.refuses !== undefined) {
        update({ notice: ports.refuses });
        return false;
      }
      const refused = push(edit);
      if (refused) {
        update({ notice: `That does not apply any more: ${refused.why}.` });
        return false;
      }
      update({ undo: [...state.undo.slice(1 - LONGEST_UNDO), edit], redo: [] });
      return true;
    },
    undo() {
      const edit = state.undo.at(-1);
      if (edit) walk(edit, { undo: state.undo.slice(0, -1), redo: [...state.redo, edit] }, true);
    },
    redo() {
      const edit = state.redo.at(-1);
      if (edit) walk(edit, { undo: [...state.undo, edit], redo: state.redo.slice(0, -1) }, false);
    },
    receive,
    retry: () => void pump(),
    takeMine(editId) {
      const waiting = state.met.find((each) => each.editId === editId);
      if (!waiting) return false;
      const again = editAgain(state.plan, waiting.edit);
      session.leaveTheirs(editId);
      if (!again) {
        update({ notice: `${waiting.words}: that cannot be done any more, ${waiting.why}.` });
        return false;
      }
      return session.dispatch(again);
    },
    leaveTheirs: (editId) => update({ met: state.met.filter((one) => one.editId !== editId) }),
    notify: (notice) => update({ notice }),
    dismissNotice: () => update({ notice: null }),
  };

  if (start.pending && start.pending.length > 0) {
    const rebuilt = rebuild(start.pending);
    update({ ...rebuilt, save: rebuilt.pending.length > 0 ? { kind: 'saving' } : state.save });
    void pump();
  } else if (state.met.length > 0) ports.keep(state.pending, state.met);
  return session;
}
