import { fileForm } from '@/server/forms/forms';
import { work } from '@/server/work/pool';
import { readForm, route } from '../http';

export const dynamic = 'force-dynamic';

/**
 * Reads a description or a recipe against its published schema, and stores nothing: 200 and `{value}`, or `{problems}` of the file.
 * The page asks for it because a browser that runs no text as code cannot compile schemas.
 */
export const POST = route(async (request) => {
  const { kind, fileName: name, text } = await readForm(request, fileForm);
  const read = await work('readFile', { kind: kind as 'description' | 'recipe', name, text });
  return new Response(read, { headers: { 'content-type': 'application/json' } });
});
