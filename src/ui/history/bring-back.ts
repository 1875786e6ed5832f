import { failWith, ok, type Result } from '@/core/base/result';
import { newId } from '@/core/base/text/new-id';
import { editBetween } from '@/core/plan/changes/edit-between';
import type { Edit } from '@/core/plan/edits/edits';
import type { Plan } from '@/core/plan/model/types';
import { api, call } from '../client/api';
import { authorName } from '../client/author';
import type { SendResult } from '../client/plan-session';

/** Sends one edit of a plan that is not open here. */
export async function sendEdit(id: string, seq: number, edit: Edit): Promise<Result<null>> {
  const answer = await call<SendResult>('POST', `/api/plans/${id}/edits`, {
    editId: newId(),
    client: newId(),
    author: authorName(),
    madeAgainst: seq,
    edit,
  });
  if (!answer.ok) return failWith(answer.problems);
  const { value } = answer;
  return value.status === 'refused' ? failWith(value.problems ?? []) : ok(null);
}

/**
 * Makes a plan what it was once: by an edit that turns today's plan into that one, so that the log keeps what was in between, and
 * the edit can be undone. Says what is wrong, or null.
 */
export async function bringBack(id: string, then: Plan, called: string): Promise<string | null> {
  const now = await api.plan(id);
  if (!now.ok) return now.problems[0]?.message ?? 'the plan cannot be read';
  const edit = editBetween(now.value.plan, then, `bring back ${called}`);
  if (edit.edits.length === 0) return null;
  const sent = await sendEdit(id, now.value.seq, edit);
  return sent.ok ? null : (sent.problems[0]?.message ?? 'the plan could not be brought back');
}
