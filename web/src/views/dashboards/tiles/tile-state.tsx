import type { ReactNode } from "react";
import { SectionLink } from "../../../time/section-link.tsx";
import { Signal, signalWords } from "../../../ui/signal.tsx";
import { usePicks } from "../picks-provider.tsx";

/** Where the rules of a tile stand, by shape and word; nothing where it has none. */
export function TileState({ tileId }: { tileId: string }): ReactNode {
  const rules = usePicks()
    .rulesOf(tileId)
    .filter(({ on, mode }) => on && mode !== null);
  const worst = rules.reduce<(typeof rules)[number] | undefined>(
    (a, b) => (a === undefined || b.raised > a.raised ? b : a),
    undefined,
  );
  if (!worst?.mode) return null;
  return (
    <SectionLink
      to={`/alerts/rules/${worst.id}`}
      className="flex shrink-0 items-center gap-1 text-[12.5px] text-quiet hover:underline"
      title={rules.map(({ name }) => name).join(", ")}
    >
      <Signal of={worst.mode} severity={worst.severity} />
      <span data-tile-state={worst.mode}>{signalWords[worst.mode]}</span>
    </SectionLink>
  );
}
