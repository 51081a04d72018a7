import type { ReactNode } from "react";
import { useLocation } from "react-router";
import type { Route } from "../../../../core/api/route.ts";
import { SectionLink } from "../../time/section-link.tsx";
import { useMay } from "../people/use-may.ts";

/** A page of a section, with the route that it needs: who may not ask that is not led there. */
export interface Part {
  readonly to: string;
  readonly words: string;
  readonly needs: Pick<Route, "method" | "path">;
}

interface PartsNavProps {
  readonly label: string;
  readonly parts: readonly Part[];
  readonly className?: string;
  /** How the page that is shown looks, and how the others do. */
  readonly here?: string;
  readonly elsewhere?: string;
}

/** The pages of a section as words, in its heading. */
export function PartsNav({
  label,
  parts,
  className = "flex flex-wrap gap-x-5",
  here = "font-bold",
  elsewhere = "word-link",
}: PartsNavProps): ReactNode {
  const { pathname } = useLocation();
  const may = useMay();
  return (
    <nav aria-label={label} className={className}>
      {parts
        .filter(({ needs }) => may(needs))
        .map(({ to, words }) => (
          <SectionLink
            key={to}
            to={to}
            aria-current={pathname === to ? "page" : undefined}
            className={pathname === to ? here : elsewhere}
          >
            {words}
          </SectionLink>
        ))}
    </nav>
  );
}

/** What the browser's tab is called: the first part is the section itself, the others are named before it. */
export function tabOf(title: string, parts: readonly Part[], pathname: string): string {
  const at = parts.findIndex(({ to }) => to === pathname);
  return at > 0 ? `${parts[at]?.words} · ${title}` : title;
}
