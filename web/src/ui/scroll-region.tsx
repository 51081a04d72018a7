import type { ReactNode } from "react";

/** A table that scrolls in its own place. */
export function ScrollRegion({
  label,
  children,
  ...rest
}: {
  label: string;
  children: ReactNode;
  [data: `data-${string}`]: boolean;
}): ReactNode {
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls must be reached by keys (WCAG 2.2, 2.1.1)
    <section aria-label={label} tabIndex={0} className="max-h-[32rem] overflow-auto" {...rest}>
      {children}
    </section>
  );
}
