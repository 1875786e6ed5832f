import { attachment, fileName } from '@/core/base/text/file-name';
import { comparisonMarkdown } from '@/core/compare/print';
import { compareStored, type Side } from '@/server/comparing';
import { answer, refuse, route } from '../http';

export const dynamic = 'force-dynamic';

/**
 * What differs between two plans, or two states of one: `?from=ID@12&to=ID~B`; `toPart` and `toPackage` make the second the same
 * plan on another part or package. `as=markdown` or `as=json` gives a file.
 */
export const GET = route(async (request) => {
  const given = new URL(request.url).searchParams;
  const side = (name: 'from' | 'to'): Side => ({
    ref: given.get(name) ?? '',
    part: given.get(`${name}Part`) ?? undefined,
    package: given.get(`${name}Package`) ?? undefined,
  });
  const result = await compareStored(side('from'), side('to'), given.get('target') ?? 'c');
  if (!result.ok) return refuse(404, ...result.problems);
  const { value } = result;
  const as = given.get('as');
  if (as !== 'markdown' && as !== 'json') return answer(value);
  const stem = [value.from.name, value.from.revision, 'to', value.to.name, value.to.revision];
  const [ending, type, text] =
    as === 'json'
      ? (['.comparison.json', 'application/json', `${JSON.stringify(value, null, 2)}\n`] as const)
      : (['.comparison.md', 'text/markdown', comparisonMarkdown(value)] as const);
  return new Response(text, {
    headers: {
      'content-type': `${type}; charset=utf-8`,
      'content-disposition': attachment(fileName(stem, ending, 'comparison')),
    },
  });
});
