import { Called } from "../../shared/machines/called.tsx";
import { highest } from "../../shared/charts/small-strip.tsx";
import type { ReactNode } from "react";
import { Link } from "react-router";
import type { CounterView } from "../../../../core/api/counters.ts";
import { palette } from "../../../../core/drawing/palette.ts";
import type { Line } from "../../../../core/reading/document.ts";
import { useReadings } from "../../api/use-readings.ts";
import { Strip } from "../../charts/strip.tsx";
import { stripScale } from "../../charts/strip-paths.ts";
import { readingAddress } from "../../sentence/reading-address.ts";
import { type NamedFigure, namedFigures } from "../../shared/bands/named-figures.ts";
import { useTime } from "../../time/time-provider.tsx";
import { Quantity } from "../../ui/quantity.tsx";
import { useTheme } from "../../ui/theme.ts";
import { ViewTitle } from "../../ui/view-title.tsx";

const most = 14;
const stripPoints = 160;
const stripPx = 30;

/**
 * What people look at first, subject by subject: where it is highest now, over the window. What was looked at last in
 * this browser stands above.
 */
export function FirstLook({ counters, last }: { counters: readonly CounterView[]; last: string | null }): ReactNode {
  const { span } = useTime();
  const shown = namedFigures(counters).slice(0, most);
  const window = { from: Math.round(span.fromMs), to: Math.round(span.toMs) };
  const answers = useReadings(shown.map(({ reading }) => ({ ...reading, points: stripPoints, window })));
  return (
    <section aria-labelledby="first-look-title" className="pt-2" data-first-look>
      <ViewTitle words="Counters" />
      <p className="mt-2 max-w-prose text-quiet" id="first-look-title">
        Where each is highest now. Choose one, or any counter beside this: its chart is a sentence whose words can be
        changed.{" "}
        {last !== null && (
          <Link to={last} className="word-link">
            What you looked at last
          </Link>
        )}
      </p>
      <ul className="mt-3 grid grid-cols-[minmax(0,1fr)] gap-x-10 min-[1700px]:grid-cols-2">
        {shown.map((figure, i) => (
          <LookRow
            key={figure.id}
            figure={figure}
            colour={i}
            line={highest(answers[i]?.data?.lines ?? [])}
            firstMs={answers[i]?.data?.from ?? span.fromMs}
            stepMs={answers[i]?.data?.stepMs ?? 1000}
          />
        ))}
      </ul>
      {shown.length === 0 && <p className="py-4 text-quiet">Nothing is gathered yet.</p>}
    </section>
  );
}

interface LookRowProps {
  readonly figure: NamedFigure;
  readonly colour: number;
  readonly line: Line | undefined;
  readonly firstMs: number;
  readonly stepMs: number;
}

function LookRow({ figure, colour, line, firstMs, stepMs }: LookRowProps): ReactNode {
  const { span } = useTime();
  const theme = useTheme();
  const ceiling = figure.unit === "%" ? 100 : (line?.max ?? 1) || 1;
  const colours = palette[theme];
  return (
    <li className="border-b border-hairline" data-look={figure.id}>
      <Link
        to={readingAddress(figure.reading, "lines")}
        className="grid grid-cols-[9rem_minmax(0,1fr)_7.5rem] items-center gap-x-4 py-2 hover:bg-wash"
        title={figure.explains}
      >
        <span className="min-w-0">
          <span className="block truncate font-bold">{figure.subject}</span>
          <span className="block truncate text-[13px] text-quiet">{figure.words}</span>
        </span>
        <Strip
          line={line}
          firstMs={firstMs}
          stepMs={stepMs}
          span={span}
          scale={stripScale(line?.values ?? [], ceiling)}
          height={stripPx}
          colour={colours[colour % colours.length] as string}
        />
        <span className="min-w-0 text-right">
          <Quantity value={line?.last ?? null} unit={figure.unit} />
          <span className="block truncate text-[13px] text-quiet">
            <Called machine={line?.tags["machine"] ?? ""} />
          </span>
        </span>
      </Link>
    </li>
  );
}
