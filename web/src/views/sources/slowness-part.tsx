import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import type { SlownessView } from "../../../../core/api/slowness.ts";
import { slowKinds } from "../../../../core/slowness/slow-kinds.ts";
import type { SlowSpell } from "../../../../core/slowness/slow-spells.ts";
import { slownessQuery } from "../../api/queries.ts";
import { momentText } from "../../time/moments.ts";
import { useTime } from "../../time/time-provider.tsx";
import { Quantity } from "../../ui/quantity.tsx";

const shownAtFirst = 12;

/** What of Nubrel itself took longer than it may, and how to see what its processor did meanwhile. */
export function Slowness(): ReactNode {
  const slowness = useQuery(slownessQuery);
  return (
    <section aria-labelledby="slowness-title" className="max-w-5xl border-t border-hairline py-4" data-slowness>
      <h2 id="slowness-title" className="font-bold">
        What took long
      </h2>
      {slowness.isPending && <p className="text-quiet">reading …</p>}
      {slowness.error && (
        <p role="alert" className="py-1 text-urgent">
          {slowness.error.message}
        </p>
      )}
      {slowness.data && <Spells of={slowness.data} />}
      <p className="pt-2 text-quiet">
        What the server's processor does is written down for half a minute by{" "}
        <span className="figure">nubrel profile 30</span>, in a shell on its machine.
      </p>
    </section>
  );
}

function Spells({ of: { limits, spells, isCut } }: { of: SlownessView }): ReactNode {
  const may = limits.map(({ kind, words, limitMs }, i) => (
    <span key={kind}>
      {i > 0 && (i === limits.length - 1 ? " and " : ", ")}
      {words} <Quantity value={limitMs / 1000} unit="s" />
    </span>
  ));
  if (spells.length === 0)
    return <p className="text-quiet">Nothing took longer than it may in the last 30 days: {may}.</p>;
  return (
    <>
      <p className="text-quiet">In the last 30 days, the newest first. Told is what takes longer than this: {may}.</p>
      <ul className="pt-1">
        {spells.slice(0, shownAtFirst).map((spell) => (
          <Spell key={`${spell.kind}${spell.fromMs}${spell.what}`} spell={spell} />
        ))}
      </ul>
      {spells.length > shownAtFirst && (
        <details className="pt-1">
          <summary className="cursor-pointer text-quiet">
            {(spells.length - shownAtFirst).toLocaleString("en")} before these{isCut && ", and more in the events"}
          </summary>
          <ul>
            {spells.slice(shownAtFirst).map((spell) => (
              <Spell key={`${spell.kind}${spell.fromMs}${spell.what}`} spell={spell} />
            ))}
          </ul>
        </details>
      )}
    </>
  );
}

function Spell({ spell: { kind, fromMs, times, mostMs, what } }: { spell: SlowSpell }): ReactNode {
  const { nowMs } = useTime();
  return (
    <li className="grid grid-cols-[9rem_5.5rem_minmax(0,1fr)] gap-x-4 border-t border-hairline py-1 max-sm:grid-cols-[7rem_minmax(0,1fr)]">
      <span className="moment text-quiet">{momentText(fromMs, nowMs)}</span>
      <span className="text-right max-sm:text-left">
        <Quantity value={mostMs / 1000} unit="s" />
      </span>
      <span className="break-words max-sm:col-span-2">
        {slowKinds[kind].word}: {what}
        {times > 1 && (
          <span className="text-quiet">
            , the slowest of <span className="figure">{times.toLocaleString("en")}</span>
          </span>
        )}
      </span>
    </li>
  );
}
