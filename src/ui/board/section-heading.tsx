import type { ReactNode } from 'react';

/** The heading of a section of a view, with what can be done there. */
export function SectionHeading({ title, children }: { title: string; children?: ReactNode }) {
  return (
    <div className="mb-1 mt-4 flex flex-wrap items-baseline gap-3 border-b border-ink pb-0.5">
      <h3 className="font-semibold">{title}</h3>
      {children}
    </div>
  );
}
