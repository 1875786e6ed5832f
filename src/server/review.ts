import { LIMITS, limitText } from '@/core/base/limits';
import { fail, ok, type Result } from '@/core/base/result';
import type { PlanComment, Subject, Verdict, VerdictKind } from '@/core/review/review';
import { announceComments } from './announce';
import { database, query } from './db';
import { headSeq } from './edit-store';
import { readRevision } from './history';
import { newId } from './ids';
import { personNow, signedName } from './people/who';

/** What people say about a plan, and what reviewers said of its revisions. */

type Row = Omit<PlanComment, 'at' | 'resolvedAt'> & { at: Date; resolvedAt: Date | null };

const COLUMNS =
  'id, subject, text, author, at, answers, resolved_by as "resolvedBy", resolved_at as "resolvedAt"';
const told = ({ at, resolvedAt, ...row }: Row): PlanComment => ({
  ...row,
  at: at.toISOString(),
  resolvedAt: resolvedAt?.toISOString() ?? null,
});

/** The comments of a plan, oldest first. */
export async function listComments(planId: string): Promise<PlanComment[]> {
  const rows = await query<Row>(
    `select ${COLUMNS} from comments where plan_id = $1 order by comments.at, id limit ${LIMITS.comments}`,
    [planId],
  );
  return rows.map(told);
}

export interface NewComment {
  subject: Subject;
  text: string;
  author: string;
  answers: string | null;
}

/** Adds a comment; undefined when the plan is not there. */
export async function addComment(
  planId: string,
  { subject, text, author, answers }: NewComment,
): Promise<Result<PlanComment> | undefined> {
  if ((await headSeq(database, planId)) === undefined) return undefined;
  const [count] = await query<{ count: number }>(
    'select count(*)::int as count from comments where plan_id = $1',
    [planId],
  );
  if ((count?.count ?? 0) >= LIMITS.comments)
    return fail({ place: 'comment', message: `a plan takes at most ${limitText('comments')}` });
  // An answer is one to a comment of the same plan that is none itself.
  const rows = await query<Row>(
    `insert into comments (id, plan_id, subject, text, author, answers, person_id)
     select $1, $2, $3, $4, $5, $6, $7 where $6::text is null or exists (
       select 1 from comments where id = $6 and plan_id = $2 and answers is null)
     returning ${COLUMNS}`,
    [newId(), planId, JSON.stringify(subject), text, signedName(author), answers, personNow()],
  );
  if (!rows[0]) return fail({ place: 'answers', message: 'there is no such comment to answer' });
  announceComments(planId);
  return ok(told(rows[0]));
}

/** Resolves a comment, or opens it again; undefined when there is no such comment. */
export async function resolveComment(
  planId: string,
  id: string,
  { resolved, author }: { resolved: boolean; author: string },
): Promise<PlanComment | undefined> {
  const rows = await query<Row>(
    `update comments set resolved_by = case when $3 then $4 end, resolved_at = case when $3 then now() end,
       resolved_person_id = case when $3 then $5 end
     where plan_id = $1 and id = $2 and answers is null returning ${COLUMNS}`,
    [planId, id, resolved, signedName(author), personNow()],
  );
  if (rows[0]) announceComments(planId);
  return rows[0] && told(rows[0]);
}

/** What was said of a plan's revisions, oldest first. */
export async function listVerdicts(planId: string): Promise<Verdict[]> {
  const rows = await query<Omit<Verdict, 'at'> & { at: Date }>(
    `select revision, circuit, verdict, note, author, fingerprint, at
       from verdicts where plan_id = $1 order by verdicts.id limit 5000`,
    [planId],
  );
  return rows.map((row) => ({ ...row, at: row.at.toISOString() }));
}

/** Says something of a circuit of a kept revision, or of all of it; undefined when there is no such revision. */
export async function addVerdict(
  planId: string,
  one: { revision: string; circuit: string; verdict: VerdictKind; note: string; author: string },
): Promise<Result<Verdict[]> | undefined> {
  const revision =
    (await headSeq(database, planId)) === undefined ? undefined : await readRevision(planId, one.revision);
  if (!revision) return undefined;
  const author = signedName(one.author);
  if (author === '') return fail({ place: 'author', message: 'a review is signed: say who you are' });
  if (one.circuit !== '' && !revision.plan.circuits.some(({ id }) => id === one.circuit))
    return fail({ place: 'circuit', message: 'the revision has no such circuit' });
  await query(
    `insert into verdicts (plan_id, revision, circuit, verdict, note, author, fingerprint, person_id)
     values ($1, $2, $3, $4, $5, $6, $7, $8)`,
    [planId, one.revision, one.circuit, one.verdict, one.note, author, revision.fingerprint, personNow()],
  );
  announceComments(planId);
  return ok(await listVerdicts(planId));
}
