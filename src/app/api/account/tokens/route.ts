import { tokenForm } from '@/server/forms/forms';
import { listTokens, makeToken } from '@/server/people/tokens';
import { mayDo, personNow, whoNow, workspaceNow } from '@/server/people/who';
import { answer, readForm, refuse, route } from '../../http';

export const dynamic = 'force-dynamic';

export const GET = route(async () => answer({ tokens: await listTokens(personNow() ?? '') }));

/** Makes an access token for the workspace that one is in; its text is told this once. */
export const POST = route(async (request) => {
  const { name, scope, days } = await readForm(request, tokenForm);
  if (workspaceNow() === '') return refuse(409, { place: 'workspace', message: 'you are in none' });
  if (scope === 'edit' && !mayDo('edit'))
    return refuse(403, {
      place: 'scope',
      message: `a ${whoNow().role} may not edit, nor may a token of theirs`,
    });
  const made = await makeToken(personNow() ?? '', workspaceNow(), { name: name.trim(), scope, days });
  if (!made.ok) return refuse(409, ...made.problems);
  const { noted } = whoNow();
  if (noted) noted.target = `${name.trim()} (${scope})`;
  return answer(made.value, 201);
});
