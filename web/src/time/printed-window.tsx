import type { ReactNode } from "react";
import { spanText } from "./moments.ts";
import { useTime } from "./time-provider.tsx";

/** The window in words, on paper: on the screen the rail tells it, once. */
export function PrintedWindow(): ReactNode {
  const { span } = useTime();
  const { day, from, to } = spanText(span.fromMs, span.toMs);
  return (
    <span className="only-in-print">
      {day}, {from} to {to}
    </span>
  );
}
