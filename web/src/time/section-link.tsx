import type { ReactNode, RefAttributes } from "react";
import { Link, type LinkProps, useSearchParams } from "react-router";
import { addressWithWindow } from "./time-window.ts";

/** A link inside the application: it keeps the window, unless its address has one of its own. */
export function SectionLink({
  to,
  ...rest
}: Omit<LinkProps, "to"> & RefAttributes<HTMLAnchorElement> & { to: string }): ReactNode {
  const [search] = useSearchParams();
  return <Link to={addressWithWindow(to, search)} {...rest} />;
}
