import type { ReactNode } from "react";

interface SelectPartProps {
  readonly label: string;
  readonly value: string;
  readonly options: readonly (readonly [value: string, words: string])[];
  /** Said of what anyone would expect: it stands back, as an offer. */
  readonly quiet?: boolean;
  readonly onChange: (value: string) => void;
}

/** A word of the sentence that is one of a few. */
export function SelectPart({ label, value, options, quiet = false, onChange }: SelectPartProps): ReactNode {
  const known = options.some(([one]) => one === value);
  return (
    <select
      className={quiet ? "part text-[13px]" : "part"}
      aria-label={label}
      value={value}
      onChange={(event) => onChange(event.target.value)}
    >
      {!known && <option value={value}>{value}</option>}
      {options.map(([one, words]) => (
        <option key={one} value={one}>
          {words}
        </option>
      ))}
    </select>
  );
}
