import { ViewTitle } from "../../ui/view-title.tsx";
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
  /** What the browser's tab is called, where it is none of the parts. */
  readonly tab?: string | undefined;
  readonly children?: ReactNode;
}

/** The heading of a section that has several pages, with these as words. */
export function PartsHeading({ title, parts, tab, children }: PartsHeadingProps): ReactNode {
  const { pathname } = useLocation();
  const may = useMay();
  return (
    <div className="flex flex-wrap items-baseline gap-x-6 gap-y-2 border-b border-ink pt-2 pb-3">
      <ViewTitle words={title} tab={tab ?? tabOf(title, parts, pathname)} />
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

/** Its first part is the section itself: the others are named before it. */
export function tabOf(
  title: string,
  parts: readonly { readonly to: string; readonly words: string }[],
  pathname: string,
): string {
  const at = parts.findIndex(({ to }) => to === pathname);
  return at > 0 ? `${parts[at]?.words} · ${title}` : title;
}
