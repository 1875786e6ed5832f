import { listParts } from '@/server/parts';
import { LISTED_PLANS, listPlans } from '@/server/plans';
import { listProfiles } from '@/server/profiles';
import { PlanList } from '@/ui/plans/plan-list';

export const dynamic = 'force-dynamic';

interface Props {
  searchParams: Promise<{ find?: string | string[] }>;
}

export default async function PlansPage({ searchParams }: Props) {
  const { find } = await searchParams;
  const wanted = typeof find === 'string' ? find.slice(0, 200) : '';
  const [plans, parts, profiles] = await Promise.all([listPlans(wanted), listParts(), listProfiles()]);
  return (
    <PlanList
      plans={plans}
      devices={parts}
      profiles={profiles}
      find={wanted}
      isCut={plans.length >= LISTED_PLANS}
    />
  );
}
