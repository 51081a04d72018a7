import type { ReactNode } from "react";
import { keptPages } from "./kept-pages.ts";

/** While the server is away: what this browser can show all the same, as it stood. */
export function KeptList(): ReactNode {
  const pages = keptPages(Date.now());
  if (pages.length === 0) return null;
  return (
    <>
      <h2 className="mt-8 font-semibold">As they stood when this browser saw them last</h2>
      <ul className="mt-2">
        {pages.map(({ path, search, title, stood }) => (
          <li key={path} className="py-1">
            <a href={path + search} className="word-link">
              {title.replace(/ · Nubrel$/, "")}
            </a>{" "}
            <span className="moment text-quiet">{stood}</span>
          </li>
        ))}
      </ul>
    </>
  );
}
