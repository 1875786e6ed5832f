import type { ReactNode, Ref } from 'react';

interface Props {
  label: string;
  className?: string;
  children: ReactNode;
  ref?: Ref<HTMLElement>;
}

/** An area that scrolls; it can be reached and scrolled by key. */
export function ScrollRegion({ label, className, children, ref }: Props) {
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls must be in the tab order, or keys cannot scroll it
    <section ref={ref} aria-label={label} tabIndex={0} className={`overflow-auto ${className ?? ''}`}>
      {children}
    </section>
  );
}
