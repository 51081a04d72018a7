import { useMay } from "../people/use-may.ts";
import type { Route } from "../../../../core/api/route.ts";
import type { ReactNode } from "react";
import { useLocation } from "react-router";
import { SectionLink } from "../../time/section-link.tsx";

interface PartsHeadingProps {
  readonly title: string;
  /** Pages, each with the route that it needs: who may not ask that is not led there. */
  readonly parts: readonly {
    readonly to: string;
    readonly words: string;
    readonly needs: Pick<Route, "method" | "path">;
  }[];
  readonly children?: ReactNode;
}

/** The heading of a section that has several pages, with these as words. */
export function PartsHeading({ title, parts, children }: PartsHeadingProps): ReactNode {
  const { pathname } = useLocation();
  const may = useMay();
  return (
    <div className="flex flex-wrap items-baseline gap-x-6 gap-y-2 border-b border-ink pt-2 pb-3">
      <h1 className="text-[26px] leading-none font-bold">{title}</h1>
      <nav aria-label={`Parts of ${title}`} className="flex flex-wrap gap-x-5">
        {parts
          .filter(({ needs }) => may(needs))
          .map(({ to, words }) => (
            <SectionLink
              key={to}
              to={to}
              aria-current={pathname === to ? "page" : undefined}
              className={pathname === to ? "border-b-2 border-act font-bold" : "text-act hover:underline"}
            >
              {words}
            </SectionLink>
          ))}
      </nav>
      {children}
    </div>
  );
}
