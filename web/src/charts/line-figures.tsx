import type { ReactNode } from "react";
import { figures } from "../../../core/units/present.ts";
import { useTheme } from "../ui/theme.ts";
import type { ChartLine } from "./chart-lines.ts";
import { type LineStyle, lineStyles, defaultWidth, widths } from "./line-styles.ts";
import { palette } from "../../../core/drawing/palette.ts";

/** How each figure is made; docs/figures.md has it in full. */
const meanings = {
  last: "the newest value, as long as it holds: three intervals of its source",
  min: "the lowest of the samples; of the steps, where several series are put together",
  mean: "weighted by for how long each value held",
  max: "the highest of the samples; of the steps, where several series are put together",
} as const;

type StyledLine = ChartLine & { readonly style: LineStyle };

interface LineFiguresProps {
  readonly caption: string;
  /** The chart by which styles are kept. */
  readonly chart: string;
  readonly lines: readonly StyledLine[];
  readonly colourOf: (line: ChartLine) => string;
  readonly scale: number;
  readonly unit: string;
}

/**
 * Every line of a chart in figures: last, least, mean and most in the window; here lines are hidden, raised, coloured
 * and made wider.
 */
export function LineFigures({ caption, chart, lines, colourOf, scale, unit }: LineFiguresProps): ReactNode {
  return (
    <div className="relative overflow-x-auto">
      <table className="text-[13px]">
        <caption className="sr-only">{caption}</caption>
        <thead>
          <tr className="text-quiet">
            <th className="pr-3 text-left font-normal">line{unit && `, in ${unit}`}</th>
            {(["last", "min", "mean", "max"] as const).map((name) => (
              <th key={name} className="px-3 text-right font-normal" title={meanings[name]}>
                {name}
              </th>
            ))}
            <th className="px-3 font-normal">
              <span className="sr-only">show</span>
            </th>
            <th className="px-3 text-left font-normal">colour</th>
            <th className="px-3 text-left font-normal">width</th>
          </tr>
        </thead>
        <tbody>
          {lines.map((line) => (
            <FigureRow key={line.key} chart={chart} chartLine={line} colour={colourOf(line)} scale={scale} />
          ))}
        </tbody>
      </table>
    </div>
  );
}

function FigureRow({
  chart,
  chartLine: { name, line, style, colourIndex },
  colour,
  scale,
}: {
  chart: string;
  chartLine: StyledLine;
  colour: string;
  scale: number;
}): ReactNode {
  const theme = useTheme();
  const cell = (value: number | null) => (
    <td className="figure px-3 py-0.5 text-right">{value === null ? "–" : figures(value * scale)}</td>
  );
  const set = (change: Parameters<typeof lineStyles.set>[2]) => lineStyles.set(chart, name, change);
  const [hide, raise] = [style.hidden ? "show" : "hide", style.raised ? "lower" : "raise"];
  const colours = palette[theme];
  return (
    <tr className="border-t border-hairline">
      <th
        scope="row"
        className={`max-w-64 truncate pr-3 text-left font-normal ${style.hidden ? "text-quiet line-through" : ""}`}
      >
        <span
          aria-hidden="true"
          className="mr-1.5 inline-block h-[3px] w-3 align-middle"
          style={{ background: colour }}
        />
        {name}
      </th>
      {cell(line.last)}
      {cell(line.min)}
      {cell(line.mean)}
      {cell(line.max)}
      <td className="whitespace-nowrap px-3">
        <button
          type="button"
          className="word-link"
          onClick={() => set({ hidden: !style.hidden })}
          aria-label={`${hide} ${name}`}
        >
          {hide}
        </button>{" "}
        <button
          type="button"
          className="word-link"
          aria-pressed={style.raised ?? false}
          onClick={() => set({ raised: !style.raised })}
          aria-label={`${raise} ${name}`}
        >
          {raise}
        </button>
      </td>
      <td className="whitespace-nowrap px-3">
        {colours.map((one, i) => (
          <button
            key={one}
            type="button"
            aria-label={`colour ${i + 1} for ${name}`}
            aria-pressed={colourIndex % colours.length === i}
            onClick={() => set({ colour: i })}
            className={`mr-1 inline-block size-3.5 align-middle ${colourIndex % colours.length === i ? "outline-2 outline-offset-1 outline-ink" : ""}`}
            style={{ background: one }}
          />
        ))}
      </td>
      <td className="px-3">
        <select
          className="part"
          aria-label={`width of ${name}`}
          value={style.width ?? defaultWidth}
          onChange={(event) => set({ width: Number(event.target.value) })}
        >
          {widths.map((width) => (
            <option key={width} value={width}>
              {width} px
            </option>
          ))}
        </select>
      </td>
    </tr>
  );
}
