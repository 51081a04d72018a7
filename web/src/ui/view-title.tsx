import { type ReactNode, useEffect, useRef } from "react";
import { nameTab } from "./tab-title.ts";

interface ViewTitleProps {
  readonly words: string;
  /** What the tab is called, where that is not the same. */
  readonly tab?: string | undefined;
  readonly className?: string;
}

/** Whether a view stood here before: the first one leaves the focus where the browser has it. */
let isLater = false;

/** The heading of a view, after which the browser's tab is named. */
export function ViewTitle({
  words,
  tab = words,
  className = "text-[26px] leading-none font-bold",
}: ViewTitleProps): ReactNode {
  useEffect(() => nameTab(tab), [tab]);
  const heading = useRef<HTMLHeadingElement>(null);
  useEffect(() => {
    // What had the focus went with the view before: it is not left to the page as a whole.
    if (isLater && document.activeElement === document.body) heading.current?.focus({ preventScroll: true });
    isLater = true;
  }, []);
  return (
    <h1 ref={heading} tabIndex={-1} className={`${className} outline-none`}>
      {words}
    </h1>
  );
}
