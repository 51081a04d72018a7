import { useQuery } from "@tanstack/react-query";
import { useEffect } from "react";
import { raisedQuery } from "../api/queries.ts";
import { countInTab } from "../ui/tab-title.ts";

/** The count of raised incidents in the tab's title and picture, so that it is seen from another tab. */
export function useRaisedTitle(): void {
  const open = useQuery(raisedQuery).data ?? [];
  const count = open.length;
  const urgent = open.some(({ severity }) => severity === "urgent");
  useEffect(() => {
    countInTab(count);
    const icon = document.querySelector<HTMLLinkElement>('link[rel="icon"]');
    if (!icon) return;
    const plain = icon.dataset["plain"] ?? icon.href;
    icon.dataset["plain"] = plain;
    icon.href = count === 0 ? plain : `data:image/svg+xml,${encodeURIComponent(badge(count, urgent))}`;
  }, [count, urgent]);
}

/** The bars of the word-mark under a diamond with the count. */
function badge(count: number, urgent: boolean): string {
  const colour = urgent ? "#b3301b" : "#8a5a00";
  return `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 32 32"><g fill="#17695e"><path d="M2 20h4v10H2zM9 12h4v18H9zM16 17h4v13h-4zM23 8h4v22h-4z"/></g><path d="M21 0 32 11 21 22 10 11z" fill="${colour}"/><text x="21" y="15" font-size="12" font-family="sans-serif" font-weight="700" fill="#fff" text-anchor="middle">${count > 9 ? "9+" : count}</text></svg>`;
}
