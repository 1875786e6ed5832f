import { targetById } from '@/core/output/targets';
import { workOnPart } from '@/server/parts';
import { momentIn, planOnPart } from '@/server/plan-on-part';
import { answer, notFound, refuse, route } from '../../../http';

export const dynamic = 'force-dynamic';

/** The generated files of a target; refused while the plan has errors, unless they are wanted all the same. */
export const GET = route<{ id: string }>(async (request, { id }) => {
  const given = new URL(request.url).searchParams;
  const target = targetById(given.get('target') ?? '');
  if (!target)
    return refuse(400, { place: 'target', message: `there is no target "${given.get('target') ?? ''}"` });
  const current = await planOnPart(id, momentIn(request.url));
  if (!current) return notFound('plan');
  const { plan, part } = current;
  if (given.get('force') !== '1') {
    const report = await workOnPart('check', part, { plan });
    if (!report.ok) return refuse(409, ...report.problems);
    const errors = report.value.findings.filter((one) => one.severity === 'error' && !one.waived);
    if (errors.length > 0)
      return refuse(409, ...errors.map(({ rule, message }) => ({ place: rule, message })));
  }
  const generated = await workOnPart('generate', part, { plan, target: target.id });
  if (!generated.ok) return refuse(409, ...generated.problems);
  const { fingerprint, files } = generated.value;
  return answer({ fingerprint, files: files.map(({ path, text }) => ({ path, text })) });
});
