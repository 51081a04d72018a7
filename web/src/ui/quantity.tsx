import type { ReactNode } from "react";
import { present } from "../../../core/units/present.ts";

/** A value with its unit smaller and lighter beside it; an en dash where there is none. */
export function Quantity({ value, unit }: { value: number | null; unit: string }): ReactNode {
  const shown = present(value, unit);
  return (
    <span className="whitespace-nowrap">
      <span className="figure">{shown.text}</span>
      {shown.unit && <span className="ml-[0.2em] text-[0.85em] text-quiet">{shown.unit}</span>}
    </span>
  );
}
