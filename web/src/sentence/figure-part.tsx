import type { ReactNode } from "react";
import { figureFault } from "./said.ts";
import { TypedInput } from "../ui/typed-input.tsx";

const units: readonly (readonly [code: string, words: string])[] = [
  ["1", "a plain number"],
  ["%", "percent"],
  ["By", "bytes"],
  ["By/s", "bytes per second"],
  ["bit/s", "bits per second"],
  ["/s", "per second"],
  ["s", "seconds"],
  ["W", "watts"],
  ["kW.h", "kilowatt-hours"],
  ["Cel", "degrees Celsius"],
  ["V", "volts"],
  ["A", "amperes"],
];

interface FigurePartProps {
  readonly figure: string;
  readonly unit: string;
  readonly names: readonly string[];
  readonly onChange: (figure: string, unit: string) => void;
}

/** Arithmetic between the sentences' names, and the unit of what comes of it. What cannot be read is pointed at. */
export function FigurePart({ figure, unit, names, onChange }: FigurePartProps): ReactNode {
  const fault = figureFault(figure, names);
  const known = units.some(([code]) => code === unit);
  return (
    <div className="my-1">
      <label>
        and draw{" "}
        <TypedInput
          className="figure w-80 max-w-full"
          value={figure}
          spellCheck={false}
          aria-invalid={fault !== undefined}
          aria-describedby={fault ? "figure-fault" : undefined}
          onType={(typed) => onChange(typed, unit)}
          placeholder={`${names.join(" / ")} * 100`}
        />
      </label>{" "}
      <label>
        in{" "}
        <select className="part" value={unit} onChange={(event) => onChange(figure, event.target.value)}>
          {!known && <option value={unit}>{unit}</option>}
          {units.map(([code, words]) => (
            <option key={code} value={code}>
              {words}
            </option>
          ))}
        </select>
      </label>
      {fault && (
        <div id="figure-fault" role="alert" className="mt-1 text-[13px] text-urgent" data-figure-fault={fault.at ?? ""}>
          {fault.at !== undefined && (
            <pre className="figure overflow-x-auto text-ink">{`${figure}\n${" ".repeat(fault.at)}^`}</pre>
          )}
          {fault.message}
        </div>
      )}
    </div>
  );
}
