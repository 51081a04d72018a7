import type { ReactNode } from "react";
import { figures } from "../../../core/units/present.ts";
import type { ChartLine } from "./chart-lines.ts";

interface LineFiguresProps {
  readonly caption: string;
  readonly lines: readonly ChartLine[];
  readonly colourOf: (line: ChartLine) => string;
  readonly scale: number;
  readonly unit: string;
  readonly hidden: ReadonlySet<string>;
  readonly raised: ReadonlySet<string>;
  readonly onHide: (key: string) => void;
  readonly onRaise: (key: string) => void;
}

/** Every line of a chart in figures: last, least, mean and most in the window; here lines are hidden and raised. */
export function LineFigures({ caption, lines, colourOf, scale, unit, hidden, raised, onHide, onRaise }: LineFiguresProps): ReactNode {
  return (
    <div className="relative overflow-x-auto">
      <table className="text-[13px]">
        <caption className="sr-only">{caption}</caption>
        <thead>
          <tr className="text-quiet">
            <th className="pr-3 text-left font-normal">line{unit && `, in ${unit}`}</th>
            {["last", "min", "mean", "max"].map((name) => (
              <th key={name} className="px-3 text-right font-normal">{name}</th>
            ))}
            <th className="px-3 font-normal"><span className="sr-only">show</span></th>
          </tr>
        </thead>
        <tbody>
          {lines.map((line) => (
            <FigureRow key={line.key} chartLine={line} colour={colourOf(line)} scale={scale} hidden={hidden.has(line.key)} raised={raised.has(line.key)} onHide={onHide} onRaise={onRaise} />
          ))}
        </tbody>
      </table>
    </div>
  );
}

interface FigureRowProps {
  readonly chartLine: ChartLine;
  readonly colour: string;
  readonly scale: number;
  readonly hidden: boolean;
  readonly raised: boolean;
  readonly onHide: (key: string) => void;
  readonly onRaise: (key: string) => void;
}

function FigureRow({ chartLine: { key, name, line }, colour, scale, hidden, raised, onHide, onRaise }: FigureRowProps): ReactNode {
  const cell = (value: number | null) => <td className="figure px-3 py-0.5 text-right">{value === null ? "–" : figures(value * scale)}</td>;
  const [hide, raise] = [hidden ? "show" : "hide", raised ? "lower" : "raise"];
  return (
    <tr className="border-t border-hairline">
      <th scope="row" className={`max-w-64 truncate pr-3 text-left font-normal ${hidden ? "text-quiet line-through" : ""}`}>
        <span aria-hidden="true" className="mr-1.5 inline-block h-[3px] w-3 align-middle" style={{ background: colour }} />
        {name}
      </th>
      {cell(line.last)}
      {cell(line.min)}
      {cell(line.mean)}
      {cell(line.max)}
      <td className="whitespace-nowrap px-3">
        <button type="button" className="word-link" onClick={() => onHide(key)} aria-label={`${hide} ${name}`}>
          {hide}
        </button>{" "}
        <button type="button" className="word-link" aria-pressed={raised} onClick={() => onRaise(key)} aria-label={`${raise} ${name}`}>
          {raise}
        </button>
      </td>
    </tr>
  );
}
