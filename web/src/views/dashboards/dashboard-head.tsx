import { ViewTitle } from "../../ui/view-title.tsx";
import type { ReactNode } from "react";
import { Link, useSearchParams } from "react-router";
import type { Dashboard } from "../../../../core/dashboards/dashboard.ts";

/** A dashboard's title, what it is for, and what can be done with it. */
export function DashboardHead({
  document,
  more,
  children,
}: {
  document: Dashboard;
  more?: string;
  children?: ReactNode;
}): ReactNode {
  return (
    <div className="mb-3 flex flex-wrap items-baseline gap-x-5 gap-y-1 border-b border-ink pt-2 pb-3" data-page-head>
      <ViewTitle words={document.title} />
      {(document.description || more) && (
        <p className="text-quiet">{[document.description, more].filter(Boolean).join(" ")}</p>
      )}
      {children && <p className="not-in-print ml-auto flex flex-wrap gap-x-4">{children}</p>}
    </div>
  );
}

/** The word at a tile's title that opens it alone, with the same window and picks. */
export function AloneLink({ base, id, title }: { base: string; id: string; title: string }): ReactNode {
  const [search] = useSearchParams();
  return (
    <Link
      to={`${base}/tiles/${encodeURIComponent(id)}?${search.toString()}`}
      className="tile-word word-link shrink-0 text-[12.5px]"
      aria-label={`open ${title || "the tile"} alone: how it was made`}
    >
      alone
    </Link>
  );
}
