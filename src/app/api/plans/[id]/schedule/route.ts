import { packageSvg } from '@/core/board/package-svg';
import { scheduleCsv, scheduleMarkdown } from '@/core/board/schedule';
import { planFileName } from '@/core/formats/print-plan';
import { attachment } from '@/core/text/file-name';
import { derivedPlan } from '@/server/derived';
import { notFound, refuse, route } from '../../../http';

export const dynamic = 'force-dynamic';

const FORMS = {
  csv: { type: 'text/csv; charset=utf-8', ending: '.pins.csv', print: scheduleCsv },
  md: { type: 'text/markdown; charset=utf-8', ending: '.pins.md', print: scheduleMarkdown },
  svg: { type: 'image/svg+xml; charset=utf-8', ending: '.package.svg', print: packageSvg },
} as const;

/** The pin schedule as a table or as Markdown, or the package as a drawing. */
export const GET = route<{ id: string }>(async (request, { id }) => {
  const as = new URL(request.url).searchParams.get('as') ?? 'csv';
  if (!Object.hasOwn(FORMS, as))
    return refuse(400, { place: 'as', message: `must be ${Object.keys(FORMS).join(', ')}` });
  const form = FORMS[as as keyof typeof FORMS];
  const derived = await derivedPlan(id);
  if (!derived) return notFound('plan');
  const name = planFileName(derived.plan, form.ending);
  return new Response(form.print(derived), {
    headers: {
      'content-type': form.type,
      'content-disposition': attachment(name),
      // A drawing opened by itself must not run anything.
      'content-security-policy': "default-src 'none'; style-src 'unsafe-inline'",
    },
  });
});
