import { type ReactNode, useEffect } from "react";
import { nameTab } from "./tab-title.ts";

interface ViewTitleProps {
  readonly words: string;
  /** What the tab is called, where that is not the same. */
  readonly tab?: string | undefined;
  readonly className?: string;
}

/** The heading of a view, after which the browser's tab is named. */
export function ViewTitle({
  words,
  tab = words,
  className = "text-[26px] leading-none font-bold",
}: ViewTitleProps): ReactNode {
  useEffect(() => nameTab(tab), [tab]);
  return <h1 className={className}>{words}</h1>;
}
