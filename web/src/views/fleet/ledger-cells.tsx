import type { ReactNode } from "react";
import type { MachineView } from "../../../../core/api/machines.ts";
import type { RuleView } from "../../../../core/api/rules.ts";
import type { Line, ReadingAnswer } from "../../../../core/reading/document.ts";
import type { Mode, Severity } from "../../../../core/rules/rule.ts";
import { present } from "../../../../core/units/present.ts";
import { palette } from "../../../../core/drawing/palette.ts";
import { Strip } from "../../charts/strip.tsx";
import { SectionLink } from "../../time/section-link.tsx";
import { useTheme } from "../../ui/theme.ts";
import { Signal, signalWords } from "../../ui/signal.tsx";
import { momentText } from "../../time/moments.ts";
import { useTime } from "../../time/time-provider.tsx";
import { LevelScale } from "./level-scale.tsx";
import type { LedgerColumn } from "./ledger-columns.ts";

/** What a cell shows: a line, and how it is to be scaled. */
export interface CellData {
  readonly line: Line | undefined;
  readonly answer: ReadingAnswer | undefined;
  readonly most: number;
}

interface MachineCellProps {
  readonly machine: MachineView;
  readonly rules: readonly RuleView[];
  /** "5 guests"; empty where nothing folds out. */
  readonly parts: string;
  readonly open: boolean;
  readonly onFold: () => void;
}

export function MachineCell({ machine, rules, parts, open, onFold }: MachineCellProps): ReactNode {
  const { nowMs } = useTime();
  const worst = worstState(machine, rules);
  const words = machine.state !== "reporting" ? machine.state : worst.mode === "quiet" ? "" : signalWords[worst.mode];
  const about = Object.values(machine.tags).slice(0, 2).join(", ");
  const silent = machine.state === "silent" && machine.lastSampleAtMs !== null;
  return (
    <div className="flex gap-2.5">
      <span className="pt-1">
        <Signal of={worst.mode} severity={worst.severity} label={words || "reporting"} />
      </span>
      <span className="min-w-0 grow leading-tight">
        <span className="flex items-baseline gap-2">
          <SectionLink
            to={`/machines/${encodeURIComponent(machine.name)}`}
            className="min-w-0 truncate font-bold hover:underline"
            title={machine.name}
          >
            {machine.friendlyName || machine.name}
          </SectionLink>
          {parts !== "" && (
            <button
              type="button"
              aria-expanded={open}
              className="word-link shrink-0 text-[12.5px]"
              onClick={onFold}
              aria-label={`${open ? "fold in" : "fold out"} ${parts} of ${machine.name}`}
            >
              {parts}
            </button>
          )}
        </span>
        <span className="block truncate text-[13px] text-quiet">
          {silent
            ? `silent since ${momentText(machine.lastSampleAtMs as number, nowMs)}`
            : [words, about].filter(Boolean).join(" · ") || "reporting"}
          {machine.sources.some(({ unchecked }) => unchecked) && (
            <strong className="text-notice"> · certificate not checked</strong>
          )}
        </span>
      </span>
    </div>
  );
}

interface LedgerCellProps {
  readonly column: LedgerColumn;
  readonly label: string;
  readonly to: string;
  readonly data: CellData;
  /** Since when nothing comes; null while it does. */
  readonly silentSinceMs: number | null;
  readonly height: number;
}

export function LedgerCell({
  column,
  label,
  to,
  data: { line, answer, most },
  silentSinceMs,
  height,
}: LedgerCellProps): ReactNode {
  const { span } = useTime();
  const theme = useTheme();
  const now = silentSinceMs !== null ? null : (line?.last ?? null);
  const shown = present(now, column.unit);
  const where = line?.tags["mountpoint"] ?? line?.tags["pool"] ?? line?.tags["instance"];
  const full = where && column.scale ? `${label}, ${where}` : label;
  // A cell that nothing reports stays empty: an axis there would say that something is zero.
  if (!line && answer) return <span className="sr-only">{full}: not reported</span>;
  return (
    <SectionLink to={to} className="grid grid-cols-[minmax(0,1fr)_5.2rem] items-end gap-2.5" title={full}>
      <span className="sr-only">{full}</span>
      {column.scale ? (
        <LevelScale share={now === null ? null : now / most} />
      ) : (
        <Strip
          line={line}
          firstMs={answer?.from ?? span.fromMs}
          stepMs={answer?.stepMs ?? 1000}
          span={span}
          most={most}
          height={height}
          colour={palette[theme][column.colour] as string}
          blindFromMs={silentSinceMs}
        />
      )}
      <span className="figure whitespace-nowrap leading-none" data-cell={column.id}>
        {shown.text}
        <span className="ml-1 text-[12px] text-quiet">{shown.unit}</span>
      </span>
    </SectionLink>
  );
}

const loudness: readonly Mode[] = ["quiet", "building", "blind", "easing", "raised"];

/** The loudest of the rules about a machine; blind where it is silent and nothing is raised. */
function worstState(
  machine: MachineView,
  rules: readonly RuleView[],
): { readonly mode: Mode; readonly severity: Severity } {
  let worst: { mode: Mode; severity: Severity } = {
    mode: machine.state === "silent" ? "blind" : "quiet",
    severity: "notice",
  };
  for (const rule of rules) {
    const about = Object.values(rule.reading.sentences).some(({ where }) =>
      where?.some(({ tag, is }) => tag === "machine" && is?.includes(machine.name)),
    );
    if (about && rule.on && rule.mode && loudness.indexOf(rule.mode) > loudness.indexOf(worst.mode))
      worst = { mode: rule.mode, severity: rule.severity };
  }
  return worst;
}
