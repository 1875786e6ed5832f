import type { Edit } from '@/core/plan/edits/edits';
import type { Waiver } from '@/core/plan/model/types';
import type { Queryable } from '../db';

/** Waivers that an edit adds, in whatever depth. */
const addedBy = (edit: Edit): Waiver[] =>
  edit.kind === 'batch' ? edit.edits.flatMap(addedBy) : edit.kind === 'waiver.add' ? [edit.waiver] : [];

/**
 * A waiver that an edit would add under the name of somebody else; undefined when there is none. One that the plan has had before,
 * word for word, may come back: that is what undoing its removal does.
 */
export async function foreignWaiver(
  client: Queryable,
  planId: string,
  edit: Edit,
  name: string,
): Promise<Waiver | undefined> {
  for (const waiver of addedBy(edit)) {
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
