import type { ReactNode } from "react";

/** The heading of a step: its number and what is asked. */
export function Stage({ n, words }: { n: number; words: string }): ReactNode {
  return (
    <h2 className="pb-2 font-bold">
      <span className="figure mr-2 font-normal text-quiet">{n}</span>
      {words}
    </h2>
  );
}
