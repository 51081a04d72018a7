import type { ReactNode } from "react";
import type { WayFacts } from "./way-facts.ts";

/** What will be seen of what is being connected, what that needs, and how it goes on. */
export function WayWords({ facts: { sees, needs, keeps } }: { facts: WayFacts }): ReactNode {
  return (
    <div className="border-l border-hairline pl-5" data-way-words>
      <h2 className="font-bold">What you will see</h2>
      <ul className="mt-1">
        {sees.map((words) => (
          <li key={words} className="border-t border-hairline py-1">
            {words}
          </li>
        ))}
      </ul>
      <h2 className="mt-5 font-bold">What it needs there</h2>
      <p>{needs}</p>
      <p className="mt-5 text-quiet">{keeps}</p>
    </div>
  );
}
