import type { Mapping } from '@/core/import/tables/mapping';
import { query } from './db';

/** What the columns of a table with these headings were the last time somebody said so. */
export async function rememberedMapping(signature: string): Promise<Mapping | undefined> {
  const rows = await query<{ mapping: Mapping }>('select mapping from table_mappings where signature = $1', [
    signature,
  ]);
  return rows[0]?.mapping;
}

export async function rememberMapping(signature: string, mapping: Mapping): Promise<void> {
  await query(
    `insert into table_mappings (signature, mapping) values ($1, $2)
     on conflict (signature) do update set mapping = $2, updated_at = now()`,
    [signature, JSON.stringify(mapping)],
  );
}
