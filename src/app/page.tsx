import { listParts } from '@/server/parts';
import { listPlans } from '@/server/plans';
import { PlanList } from '@/ui/plans/plan-list';

export const dynamic = 'force-dynamic';

export default async function PlansPage() {
  const [plans, parts] = await Promise.all([listPlans(), listParts()]);
  return <PlanList plans={plans} devices={parts} />;
}
