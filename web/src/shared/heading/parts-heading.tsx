import type { ReactNode } from "react";
import { useLocation } from "react-router";
import { ViewTitle } from "../../ui/view-title.tsx";
import { type Part, PartsNav, tabOf } from "./parts-nav.tsx";

interface PartsHeadingProps {
  readonly title: string;
  readonly parts: readonly Part[];
  /** What the browser's tab is called, where it is none of the parts. */
  readonly tab?: string | undefined;
  readonly children?: ReactNode;
}

/** The heading of a section that has several pages, with these as words. */
export function PartsHeading({ title, parts, tab, children }: PartsHeadingProps): ReactNode {
  const { pathname } = useLocation();
  return (
    <div className="flex flex-wrap items-baseline gap-x-6 gap-y-2 border-b border-ink pt-2 pb-3">
      <ViewTitle words={title} tab={tab ?? tabOf(title, parts, pathname)} />
      <PartsNav
        label={`Parts of ${title}`}
        parts={parts}
        here="border-b-2 border-act font-bold"
        elsewhere="text-act hover:underline"
      />
      {children}
    </div>
  );
}
