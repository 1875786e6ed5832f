import { countNamesakes } from '@/server/plans';
import { answer, route } from '../../../http';

export const dynamic = 'force-dynamic';

/** How many other plans are called as this one is, in the same revision. */
export const GET = route<{ id: string }>(async (_request, { id }) =>
  answer({ namesakes: await countNamesakes(id) }),
);
