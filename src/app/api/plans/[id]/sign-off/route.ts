import { planIsThere } from '@/server/plans';
import { signedRevision } from '@/server/reviewed';
import { answer, notFound, route } from '../../../http';

export const dynamic = 'force-dynamic';

/** The newest revision that is signed: by whom, when, for which content. It holds for a plan whose content is the same. */
export const GET = route<{ id: string }>(async (_request, { id }) =>
  (await planIsThere(id)) ? answer({ signed: (await signedRevision(id)) ?? null }) : notFound('plan'),
);
