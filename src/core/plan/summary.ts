/** A plan as the list of plans shows it. Times are ISO 8601. */
export interface PlanSummary {
  id: string;
  name: string;
  revision: string;
  device: string;
  package: string;
  nets: number;
  placed: number;
  errors: number;
  warnings: number;
  updatedAt: string;
  deletedAt: string | null;
}

/** A few letters that tell a plan from others of its name: in titles, in lists, in names of files. */
export const tagOf = (id: string): string => (/^[a-z0-9]{12}$/.test(id) ? id.slice(0, 4) : id.slice(0, 24));

/** "Frost guard · rev C", and for one of several of that name the letters that tell it from the others: by id. */
export function planTitles(
  plans: readonly Pick<PlanSummary, 'id' | 'name' | 'revision'>[],
): Map<string, string> {
  const several = namesakes(plans);
  return new Map(
    plans.map(({ id, name, revision }) => [
      id,
      `${name}${revision ? ` · rev ${revision}` : ''}${several.has(id) ? ` (${tagOf(id)})` : ''}`,
    ]),
  );
}

/** Ids of the plans that share name and revision with another one. */
export function namesakes(plans: readonly Pick<PlanSummary, 'id' | 'name' | 'revision'>[]): Set<string> {
  const byName = new Map<string, string[]>();
  for (const { id, name, revision } of plans) {
    const key = `${name.trim().toLowerCase()}\n${revision}`;
    byName.set(key, [...(byName.get(key) ?? []), id]);
  }
  return new Set([...byName.values()].filter((ids) => ids.length > 1).flat());
}
