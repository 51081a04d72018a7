import type { ReactNode } from "react";
import { TypedInput } from "./typed-input.tsx";

interface NumberFieldProps {
  readonly label: string;
  readonly value: number | undefined;
  readonly usual: string;
  readonly least?: number;
  readonly most?: number;
  readonly className?: string;
  readonly onChange: (value: number | undefined) => void;
}

/** A number in the middle of a sentence; empty is what is usual. What is no number, or outside, is not taken. */
export function NumberField({
  label,
  value,
  usual,
  least = Number.NEGATIVE_INFINITY,
  most = Number.POSITIVE_INFINITY,
  className = "w-24",
  onChange,
}: NumberFieldProps): ReactNode {
  return (
    <TypedInput
      aria-label={label}
      inputMode="decimal"
      placeholder={usual}
      value={value === undefined ? "" : String(value)}
      className={`figure !py-0 ${className}`}
      onType={(text) => {
        const typed = Number(text.replace(",", "."));
        if (text.trim() === "") onChange(undefined);
        else if (typed >= least && typed <= most && (Number.isFinite(least) ? Number.isInteger(typed) : true))
          onChange(typed);
      }}
    />
  );
}
