import { listParts } from '@/server/parts';
import { listPlans } from '@/server/plans';
import { listProfiles } from '@/server/profiles';
import { PlanList } from '@/ui/plans/plan-list';

export const dynamic = 'force-dynamic';

export default async function PlansPage() {
  const [plans, parts, profiles] = await Promise.all([listPlans(), listParts(), listProfiles()]);
  return <PlanList plans={plans} devices={parts} profiles={profiles} />;
}
