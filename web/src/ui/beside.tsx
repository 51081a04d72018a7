import type { ReactNode } from "react";

interface BesideProps {
  /** What is worked through: a form, a list. */
  readonly children: ReactNode;
  /** What comes of it: it stays in view while the other is scrolled. */
  readonly aside: ReactNode;
  /** What the aside is, for those who do not see it. */
  readonly label: string;
}

/** Two columns on a wide screen, the second of which stays in view; on a narrow one the aside follows. */
export function Beside({ children, aside, label }: BesideProps): ReactNode {
  return (
    <div className="grid grid-cols-[minmax(0,1fr)] gap-x-12 gap-y-4 lg:grid-cols-[minmax(0,5fr)_minmax(0,6fr)] print:block">
      <div className="min-w-0">{children}</div>
      <section
        aria-label={label}
        // biome-ignore lint/a11y/noNoninteractiveTabindex: it scrolls where it is longer than the screen
        tabIndex={0}
        className="min-w-0 lg:sticky lg:top-14 lg:max-h-[calc(100vh-10rem)] lg:self-start lg:overflow-y-auto print:max-h-none"
        data-aside
      >
        {aside}
      </section>
    </div>
  );
}
