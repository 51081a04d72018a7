import { tabOf } from "../../shared/heading/parts-heading.tsx";
import { ViewTitle } from "../../ui/view-title.tsx";
import type { ReactNode } from "react";
import { useLocation } from "react-router";
import { SectionLink } from "../../time/section-link.tsx";

const pages = [
  { to: "/planning", words: "Energy" },
  { to: "/planning/space", words: "Space" },
  { to: "/planning/fit", words: "Fit" },
  { to: "/planning/month", words: "The month" },
  { to: "/planning/watching", words: "What watching costs" },
] as const;

/** The section's name, and its pages. */
export function PlanningHeading({ children }: { children?: ReactNode }): ReactNode {
  const { pathname } = useLocation();
  return (
    <div className="flex flex-wrap items-baseline gap-x-6 gap-y-2 border-b border-ink pt-2 pb-3">
      <ViewTitle words="Planning" tab={tabOf("Planning", pages, pathname)} />
      <nav aria-label="Pages of planning" className="not-in-print flex flex-wrap gap-x-5 gap-y-1">
        {pages.map(({ to, words }) => (
          <SectionLink
            key={to}
            to={to}
            aria-current={pathname === to ? "page" : undefined}
            className={pathname === to ? "font-bold" : "text-quiet hover:text-ink"}
          >
            {words}
          </SectionLink>
        ))}
      </nav>
      <span className="ml-auto flex flex-wrap items-baseline gap-x-5">{children}</span>
    </div>
  );
}
