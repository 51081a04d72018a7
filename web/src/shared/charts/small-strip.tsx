import { type ReactNode, useRef } from "react";
import { palette } from "../../../../core/drawing/palette.ts";
import type { Line } from "../../../../core/reading/document.ts";
import { Strip } from "../../charts/strip.tsx";
import { stripScale } from "../../charts/strip-paths.ts";
import type { OpenReading } from "../../sentence/reading-address.ts";
import { useReading } from "../../sentence/use-reading.ts";
import type { Span } from "../../time/time-window.ts";
import { useTheme } from "../../ui/theme.ts";
import { useNearScreen } from "../../ui/use-near-screen.ts";

const points = 80;

interface SmallStripProps {
  readonly reading: OpenReading;
  readonly span: Span;
  readonly height: number;
  /** Which line is drawn; the highest where nothing is said. */
  readonly pick?: (lines: readonly Line[]) => Line | undefined;
  /** What stands beside the strip, of the line that is drawn; the room is kept while it is read. */
  readonly children?: (line: Line | undefined) => ReactNode;
}

/** One line of a reading as a small strip; it is read once it comes near the screen. */
export function SmallStrip({ reading, span, height, pick = highest, children }: SmallStripProps): ReactNode {
  const place = useRef<HTMLSpanElement>(null);
  const isNear = useNearScreen(place);
  const theme = useTheme();
  const answer = useReading(reading, span, points, isNear).data;
  const line = pick(answer?.lines ?? []);
  return (
    <>
      <span ref={place} className="block min-w-0" style={{ height }} data-small-strip={line ? "drawn" : "empty"}>
        {answer && line && (
          <Strip
            line={line}
            firstMs={answer.from}
            stepMs={answer.stepMs}
            span={span}
            scale={stripScale(line.values, line.unit === "%" ? 100 : (line.max ?? 1) || 1)}
            height={height}
            colour={palette[theme][0] as string}
          />
        )}
      </span>
      {children?.(line)}
    </>
  );
}

/** By the newest value; by the most of the window where none has one. */
export function highest(lines: readonly Line[]): Line | undefined {
  const by = (line: Line) => line.last ?? Number.NEGATIVE_INFINITY;
  const most = (line: Line) => line.max ?? Number.NEGATIVE_INFINITY;
  return lines.reduce<Line | undefined>(
    (a, b) => (a === undefined || by(b) > by(a) || (by(b) === by(a) && most(b) > most(a)) ? b : a),
    undefined,
  );
}
