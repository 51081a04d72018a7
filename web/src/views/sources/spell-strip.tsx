import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import type { SpellView } from "../../../../core/api/sources.ts";
import { spellsQuery } from "../../api/queries.ts";
import { clockTime } from "../../time/moments.ts";
import { useTime } from "../../time/time-provider.tsx";

interface SpellStripProps {
  readonly id: number;
  readonly name: string;
  /** A spell goes on until the next answer is due. */
  readonly intervalMs: number;
  readonly height?: number;
}

/** A source over the window: a bar while it answered, a notched mark where it failed, nothing where nobody asked. */
export function SpellStrip({ id, name, intervalMs, height = 18 }: SpellStripProps): ReactNode {
  const { span } = useTime();
  const spells =
    useQuery(spellsQuery(id, Math.floor(span.fromMs / 5000) * 5000, Math.ceil(span.toMs / 5000) * 5000)).data ?? [];
  const length = span.toMs - span.fromMs;
  const at = (ms: number) => (Math.min(Math.max(ms, span.fromMs), span.toMs) - span.fromMs) / length;
  const failed = spells.filter(({ outcome }) => outcome !== "ok");
  const label = `${name} from ${clockTime(span.fromMs)} to ${clockTime(span.toMs)}: ${failed.length === 0 ? (spells.length === 0 ? "nothing is known" : "no failure") : `${failed.length} failures, the last: ${failed[failed.length - 1]?.words}`}`;
  return (
    <svg role="img" aria-label={label} width="100%" height={height} className="block border-b border-hairline">
      {spells.map((spell) => (
        <SpellMark
          key={spell.fromMs}
          spell={spell}
          from={at(spell.fromMs)}
          to={at(spell.untilMs + intervalMs)}
          height={height}
        />
      ))}
    </svg>
  );
}

function SpellMark({
  spell,
  from,
  to,
  height,
}: {
  spell: SpellView;
  from: number;
  to: number;
  height: number;
}): ReactNode {
  const place = { x: `${from * 100}%`, width: `${Math.max(0.15, (to - from) * 100)}%` };
  if (spell.outcome === "ok") return <rect {...place} y={height * 0.45} height={height * 0.55} fill="var(--density)" />;
  return (
    <rect {...place} y="1" height={height - 1} fill="var(--notice)" opacity="0.85">
      <title>{`${clockTime(spell.fromMs)}: ${spell.words}`}</title>
    </rect>
  );
}
