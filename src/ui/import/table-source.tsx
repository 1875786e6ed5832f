'use client';

import type { TableDraft } from '@/core/import/compose/draft';

/** The document a table was read in. */
export function TableSource({
  draft,
  onChange,
}: {
  draft: TableDraft;
  onChange: (source: TableDraft['source']) => void;
}) {
  const { source } = draft;
  return (
    <div className="flex flex-wrap items-center gap-x-3 gap-y-1 border-b border-rule px-6 py-1 text-soft">
      <span>read in</span>
      <input
        aria-label="Document of the table"
        className="w-56 !h-6 !py-0"
        maxLength={300}
        value={source.document}
        onChange={(event) => onChange({ ...source, document: event.target.value })}
      />
      <label className="flex items-center gap-1.5">
        revision
        <input
          className="w-20 !h-6 !py-0"
          maxLength={40}
          value={source.revision ?? ''}
          onChange={(event) => onChange({ ...source, revision: event.target.value || undefined })}
        />
      </label>
      <label className="flex items-center gap-1.5">
        page
        <input
          className="w-16 !h-6 !py-0"
          inputMode="numeric"
          value={source.page ?? ''}
          onChange={(event) => {
            const page = Number.parseInt(event.target.value, 10);
            onChange({ ...source, page: Number.isNaN(page) ? undefined : page });
          }}
        />
      </label>
      <span className="text-[12px]">kept with every datum and shown in the inspector</span>
    </div>
  );
}
