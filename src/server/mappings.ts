import type { Mapping } from '@/core/import/tables/mapping';
import { query } from './db';
import { workspaceNow } from './people/who';

/** What the columns of a table with these headings were the last time somebody said so. */
export async function rememberedMapping(signature: string): Promise<Mapping | undefined> {
  const rows = await query<{ mapping: Mapping }>(
    'select mapping from table_mappings where workspace_id = $1 and signature = $2',
    [workspaceNow(), signature],
  );
  return rows[0]?.mapping;
}

export async function rememberMapping(signature: string, mapping: Mapping): Promise<void> {
  await query(
    `insert into table_mappings (signature, mapping, workspace_id) values ($1, $2, $3)
     on conflict (workspace_id, signature) do update set mapping = $2, updated_at = now()`,
    [signature, JSON.stringify(mapping), workspaceNow()],
  );
}
