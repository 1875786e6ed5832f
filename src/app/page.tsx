import { deviceChoices } from '@/server/devices';
import { listPlans } from '@/server/plans';
import { PlanList } from '@/ui/plans/plan-list';

export const dynamic = 'force-dynamic';

export default async function PlansPage() {
  return <PlanList plans={await listPlans()} devices={deviceChoices()} />;
}
