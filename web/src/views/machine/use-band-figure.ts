import type { UseQueryResult } from "@tanstack/react-query";
import type { ReadingAnswer } from "../../../../core/reading/document.ts";
import type { Band } from "../../shared/bands/band.ts";
import { useReading } from "../../sentence/use-reading.ts";
import type { Span } from "../../time/time-window.ts";

/** A band with the figure that its machine tells of, and that figure's answer: the one in its place where nothing tells of the first. */
export function useBandFigure(
  band: Band,
  machine: string,
  span: Span,
): { readonly band: Band; readonly figure: UseQueryResult<ReadingAnswer> } {
  const { figure } = band;
  const first = useReading(figure.reading(machine), span);
  const isWithout = figure.instead !== undefined && first.data?.lines.length === 0;
  const second = useReading((figure.instead ?? figure).reading(machine), span, undefined, isWithout);
  return isWithout && figure.instead
    ? { band: { ...band, figure: figure.instead }, figure: second }
    : { band, figure: first };
}
