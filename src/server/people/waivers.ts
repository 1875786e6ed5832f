import { canonicalJson } from '@/core/base/fingerprint';
import { type Edit, signedBy } from '@/core/plan/edits/edits';
import type { Plan, Waiver } from '@/core/plan/model/types';
import type { Queryable } from '../db';

/** Waivers of a plan that were not in it, word for word: a kind of edit that did not say what it signs would show here. */
function newIn({ before, after }: { before: Plan; after: Plan }): Waiver[] {
  if (after.waivers === before.waivers) return [];
  const known = new Set(before.waivers?.map(canonicalJson));
  return (after.waivers ?? []).filter((waiver) => !known.has(canonicalJson(waiver)));
}

/**
 * A waiver that an edit would add under the name of somebody else; undefined when there is none. One that the plan has had before,
 * word for word, may come back: that is what undoing its removal does.
 */
export async function foreignWaiver(
  client: Queryable,
  planId: string,
  edit: Edit,
  change: { before: Plan; after: Plan },
  name: string,
): Promise<Waiver | undefined> {
  for (const waiver of [...signedBy(edit), ...newIn(change)]) {
    if (waiver.author === name) continue;
    const { rows } = await client.query<{ there: boolean }>(
      `select exists (select 1 from snapshots where plan_id = $1 and plan->'waivers' @> $2::jsonb)
         or exists (select 1 from edits where plan_id = $1 and jsonb_path_query_array(edit, '$.**.waiver') @> $2::jsonb)
         or exists (select 1 from folded_edits where plan_id = $1 and jsonb_path_query_array(edits, '$.**.waiver') @> $2::jsonb) as there`,
      [planId, JSON.stringify([waiver])],
    );
    if (!rows[0]?.there) return waiver;
  }
  return undefined;
}
