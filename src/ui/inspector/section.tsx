import type { ReactNode } from 'react';

/** A titled part of the inspector, parted from the one before by a hairline. */
export function Section({
  id,
  title,
  children,
  aside,
}: {
  /** By which keys find it. */
  id?: string;
  title: string;
  children: ReactNode;
  aside?: ReactNode;
}) {
  return (
    <section id={id} className="mt-2.5 border-t border-rule pt-2">
      <div className="mb-1 flex items-baseline gap-2">
        <h3 className="font-semibold">{title}</h3>
        {aside !== undefined && <span className="ml-auto text-soft">{aside}</span>}
      </div>
      {children}
    </section>
  );
}

/** A label and its value, aligned with the others. */
export function Row({ label, children }: { label: string; children: ReactNode }) {
  return (
    <div className="grid grid-cols-[70px_1fr] items-baseline gap-x-2 py-[2px]">
      <span className="text-soft">{label}</span>
      <div className="min-w-0">{children}</div>
    </div>
  );
}
