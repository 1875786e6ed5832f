import { work } from '@/server/work/pool';
import { fileForm } from '../forms';
import { answer, readForm, route } from '../http';

export const dynamic = 'force-dynamic';

/**
 * Reads a description or a recipe against its published schema, and stores nothing: 200 and `{value}`, or `{problems}` of the file.
 * The page asks for it because a browser that runs no text as code cannot compile schemas.
 */
export const POST = route(async (request) => {
  const { kind, fileName: name, text } = await readForm(request, fileForm, 'partRequestBytes');
  const read =
    kind === 'recipe' ? await work('readRecipe', { name, text }) : await work('readPart', { name, text });
  return answer(read.ok ? { value: read.value } : { problems: read.problems });
});
