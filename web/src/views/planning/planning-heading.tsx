import { askEnergy } from "../../../../core/api/energy.ts";
import { askFit } from "../../../../core/api/fit.ts";
import { getMonth } from "../../../../core/api/month.ts";
import { getSpace } from "../../../../core/api/space.ts";
import { getWatching } from "../../../../core/api/watching.ts";
import { PartsNav, tabOf } from "../../shared/heading/parts-nav.tsx";
import { ViewTitle } from "../../ui/view-title.tsx";
import type { ReactNode } from "react";
import { useLocation } from "react-router";

const pages = [
  { to: "/planning", words: "Energy", needs: askEnergy },
  { to: "/planning/space", words: "Space", needs: getSpace },
  { to: "/planning/fit", words: "Fit", needs: askFit },
  { to: "/planning/month", words: "The month", needs: getMonth },
  { to: "/planning/watching", words: "What watching costs", needs: getWatching },
] as const;

/** The section's name, and its pages. */
export function PlanningHeading({ children }: { children?: ReactNode }): ReactNode {
  const { pathname } = useLocation();
  return (
    <div className="flex flex-wrap items-baseline gap-x-6 gap-y-2 border-b border-ink pt-2 pb-3">
      <ViewTitle words="Planning" tab={tabOf("Planning", pages, pathname)} />
      <PartsNav
        label="Pages of planning"
        parts={pages}
        className="not-in-print flex flex-wrap gap-x-5 gap-y-1"
        elsewhere="text-quiet hover:text-ink"
      />
      <span className="ml-auto flex flex-wrap items-baseline gap-x-5">{children}</span>
    </div>
  );
}
