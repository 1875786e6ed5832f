import { targetById } from '@/core/output/targets';
import { checkCodeForm } from '@/server/forms/forms';
import { workOnPart } from '@/server/parts';
import { planOnPart } from '@/server/plan-on-part';
import { checkCode, hasTools } from '@/server/toolchain';
import { answer, notFound, readForm, refuse, route } from '../../../http';

export const dynamic = 'force-dynamic';

/** Puts the code of the plan as it is stored through the compilers that the server has. */
export const POST = route<{ id: string }>(async (request, { id }) => {
  const form = await readForm(request, checkCodeForm);
  const target = targetById(form.target);
  if (!target) return refuse(400, { place: 'target', message: `there is no target "${form.target}"` });
  if (!hasTools(target.id))
    return refuse(400, { place: 'target', message: `${target.title} is not compiled` });
  const current = await planOnPart(id, form.at);
  if (!current) return notFound('plan');
  const generated = await workOnPart('generate', current.part, { plan: current.plan, target: target.id });
  if (!generated.ok) return refuse(400, ...generated.problems);
  return answer({ seq: current.seq, tools: await checkCode(target.id, generated.value.files) });
});
