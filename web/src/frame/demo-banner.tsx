import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { demoQuery } from "../api/queries.ts";

/** While the sample world's past is being written, how far it has come. */
export function DemoBanner(): ReactNode {
  const demo = useQuery(demoQuery).data;
  if (!demo || demo.progress >= 1) return null;
  return (
    <p
      role="status"
      className="not-in-print flex flex-wrap items-center gap-3 border-b border-hairline px-4 py-1.5 text-[13px] text-quiet sm:px-7"
    >
      The sample world's last thirty days are being gathered:
      <progress className="h-1.5 w-40 accent-act" max={1} value={demo.progress} aria-label="the past so far" />
      <span className="figure">{Math.floor(demo.progress * 100)} %</span>
    </p>
  );
}
