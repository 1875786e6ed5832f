import { type RevisionReview, reviewOf, type SignOff, signatureText } from '@/core/review/review';
import { listRevisions, type Revision, readRevision } from './history';
import { workOnPart } from './parts';
import { planOnPart } from './plan-on-part';
import { listVerdicts } from './review';

/** A revision with its review, and whether its sign-off holds for the plan as it is. */
export interface Reviewed {
  revision: Revision;
  review: RevisionReview;
  signature: { holds: boolean; text: string } | undefined;
}

/** The content of a plan as it is now; empty where it cannot be derived. */
export async function contentNow(id: string): Promise<string> {
  const current = await planOnPart(id);
  const now = current && (await workOnPart('revise', current.part, { plan: current.plan, targets: [] }));
  return now?.ok ? now.value.fingerprint : '';
}

/** A revision of a plan, the newest unless one is named; undefined when there is none. */
export async function reviewedRevision(id: string, name?: string): Promise<Reviewed | undefined> {
  const chosen = name ?? (await listRevisions(id))[0]?.name;
  const revision = chosen === undefined ? undefined : await readRevision(id, chosen);
  if (!revision) return undefined;
  const verdicts = (await listVerdicts(id)).filter((one) => one.revision === revision.name);
  const review = reviewOf(revision.plan.circuits, verdicts);
  return {
    revision,
    review,
    signature: review.signed && signatureText(revision.name, review.signed, await contentNow(id)),
  };
}

/** The newest revision of a plan that is signed. */
export async function signedRevision(id: string): Promise<({ revision: string } & SignOff) | undefined> {
  const [revisions, verdicts] = await Promise.all([listRevisions(id), listVerdicts(id)]);
  for (const { name } of revisions) {
    const own = verdicts.filter((one) => one.revision === name);
    const revision = own.length > 0 ? await readRevision(id, name) : undefined;
    const signed = revision && reviewOf(revision.plan.circuits, own).signed;
    if (signed) return { revision: name, ...signed };
  }
  return undefined;
}
