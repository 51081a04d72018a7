import type { ReactNode } from "react";
import { Link, type LinkProps, useSearchParams } from "react-router";
import { searchWithWindow, windowFromSearch } from "../time/time-window.ts";

/** A link inside the application: it keeps the window. */
export function SectionLink({ to, ...rest }: Omit<LinkProps, "to"> & { to: string }): ReactNode {
  const [search] = useSearchParams();
  const kept = ["from", "last"].some((name) => search.has(name)) ? `?${searchWithWindow(new URLSearchParams(), windowFromSearch(search))}` : "";
  const [path, hash] = to.split("#");
  return <Link to={`${path}${kept}${hash ? `#${hash}` : ""}`} {...rest} />;
}
