import { type ReactNode, useMemo } from "react";
import type { MachineView } from "../../../../core/api/machines.ts";
import type { RuleView } from "../../../../core/api/rules.ts";
import type { Line, ReadingAnswer } from "../../../../core/reading/document.ts";
import type { Mode, Severity } from "../../../../core/rules/rule.ts";
import { present } from "../../../../core/units/present.ts";
import { withUnit } from "../../../../core/rules/incident-text.ts";
import { palette } from "../../../../core/drawing/palette.ts";
import { Strip } from "../../charts/strip.tsx";
import { stripScale } from "../../charts/strip-paths.ts";
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
  const words =
    machine.state !== "reporting"
      ? machine.state
      : worst.mode === "quiet"
        ? ""
        : `${signalWords[worst.mode]}: ${worst.rule}`;
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
  /** On a phone, where no column's head stands above it, the cell says what it is. */
  readonly isAlone?: boolean;
}

export function LedgerCell({
  column,
  label,
  to,
  data: { line, answer, most },
  silentSinceMs,
  height,
  isAlone = false,
}: LedgerCellProps): ReactNode {
  const { span } = useTime();
  const theme = useTheme();
  const scale = useMemo(() => stripScale(line?.values ?? [], most), [line, most]);
  const now = silentSinceMs !== null ? null : (line?.last ?? null);
  const shown = present(now, column.unit);
  const where = line?.tags["mountpoint"] ?? line?.tags["pool"] ?? line?.tags["instance"];
  const full = where && column.scale ? `${label}, ${where}` : label;
  // A cell that nothing reports stays empty: an axis there would say that something is zero.
  if (!line && answer) return <span className="sr-only">{full}: not reported</span>;
  const scaleWords = column.scale
    ? ""
    : `; the strip goes from ${withUnit(scale.least, column.unit)} to ${withUnit(scale.most, column.unit)}`;
  return (
    <SectionLink
      to={to}
      className="block max-sm:flex max-sm:items-baseline max-sm:gap-1.5"
      title={`${full}${scaleWords}`}
    >
      <span className="sr-only">{full}</span>
      <span
        aria-hidden="true"
        className={`text-[12.5px] text-quiet ${isAlone ? "block truncate leading-4" : "sm:hidden"}`}
      >
        {column.title.toLowerCase()}
      </span>
      <span className="figure whitespace-nowrap leading-none max-sm:text-[13.5px]" data-cell={column.id}>
        {shown.text}
        <span className="ml-1 text-[12px] text-quiet">{shown.unit}</span>
      </span>
      <span className="mt-0.5 block max-sm:hidden">
        {column.scale ? (
          <LevelScale share={now === null ? null : now / most} height={height} />
        ) : (
          <Strip
            line={line}
            firstMs={answer?.from ?? span.fromMs}
            stepMs={answer?.stepMs ?? 1000}
            span={span}
            scale={scale}
            height={height}
            colour={palette[theme][column.colour] as string}
            blindFromMs={silentSinceMs}
          />
        )}
      </span>
    </SectionLink>
  );
}

const loudness: readonly Mode[] = ["quiet", "building", "blind", "easing", "raised"];

/** The loudest of the rules about a machine; blind where it is silent and nothing is raised. */
function worstState(
  machine: MachineView,
  rules: readonly RuleView[],
): { readonly mode: Mode; readonly severity: Severity; readonly rule: string } {
  let worst: { mode: Mode; severity: Severity; rule: string } = {
    mode: machine.state === "silent" ? "blind" : "quiet",
    severity: "notice",
    rule: "",
  };
  for (const rule of rules) {
    const about = Object.values(rule.reading.sentences).some(({ where }) =>
      where?.some(({ tag, is }) => tag === "machine" && is?.includes(machine.name)),
    );
    if (about && rule.on && rule.mode && loudness.indexOf(rule.mode) > loudness.indexOf(worst.mode))
      worst = { mode: rule.mode, severity: rule.severity, rule: rule.name };
  }
  return worst;
}
