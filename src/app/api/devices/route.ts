import { partForm } from '@/server/forms/forms';
import { listParts, storePartText } from '@/server/parts';
import { work } from '@/server/work/pool';
import { answer, readForm, refuse, route } from '../http';

export const dynamic = 'force-dynamic';

export const GET = route(async () => answer({ devices: await listParts() }));

/**
 * Stores a description: `text` is a `mavrek-device/3` file. `expected` is the revision that it replaces, 0 for a new part. A
 * description that is wrong is answered with 200, `id: null` and its problems, and nothing is stored.
 */
export const POST = route(async (request) => {
  const form = await readForm(request, partForm);
  const read = await work('readPart', { name: form.fileName, text: form.text });
  if (!read.ok) return answer({ id: null, problems: read.problems });
  const stored = await storePartText(read.value, { expected: form.expected });
  if (stored.ok) return answer({ id: read.value.id, ...stored.value }, 201);
  const moved = stored.problems.some((one) => one.place === 'part');
  return moved ? refuse(409, ...stored.problems) : answer({ id: null, problems: stored.problems });
});
