import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { sampleQuery } from "../api/queries.ts";

/** While the sample world's past is being written, how far it has come. */
export function SampleNotice(): ReactNode {
  const sample = useQuery(sampleQuery).data;
  if (!sample || sample.progress >= 1) return null;
  return (
    <p role="status" className="flex flex-wrap items-center gap-3 border-b border-hairline px-4 py-1.5 text-[13px] text-quiet sm:px-7">
      The sample world's last thirty days are being gathered:
      <progress className="h-1.5 w-40 accent-act" max={1} value={sample.progress} aria-label="the past so far" />
      <span className="figure">{Math.floor(sample.progress * 100)} %</span>
    </p>
  );
}
