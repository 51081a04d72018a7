import { type ReactNode, useState } from "react";
import type { SpaceView } from "../../../../../core/api/space.ts";
import { amount, whenWords } from "../../../../../core/planning/space-words.ts";
import { whatIf } from "../../../../../core/capacity/what-if.ts";
import { NumberField } from "../../../ui/number-field.tsx";
import { readingAddress } from "../../../sentence/reading-address.ts";
import { dayOf } from "../../../time/moments.ts";
import { SectionLink } from "../../../time/section-link.tsx";

const gigabyte = 1e9;
const dayMs = 86_400_000;

/** One thing that fills, as if it grew faster, held more or less, or were larger. */
export function WhatIfPart({ one, nowMs }: { one: SpaceView; nowMs: number }): ReactNode {
  const [faster, setFaster] = useState<number>();
  const [added, setAdded] = useState<number>();
  const [moved, setMoved] = useState<number>();
  const [larger, setLarger] = useState<number>();
  const { used, size, unit, perDay, fullFromMs, fullToMs, machine, kind, reading } = one;
  const by = unit === "By" ? gigabyte : 1;
  const words = unit === "By" ? "GB" : "more";
  const supposed = {
    ...(faster !== undefined && { faster }),
    ...(added !== undefined && { added: added * by }),
    ...(moved !== undefined && { moved: moved * by }),
    ...(larger !== undefined && { size: larger * by }),
  };
  const then = whatIf({ used, size, perDay, fullFromMs, fullToMs }, supposed, nowMs);
  const isAsked = Object.keys(supposed).length > 0;
  return (
    <div className="max-w-prose text-[14px]" data-what-if>
      <p>
        {amount(used, unit)} of {amount(size, unit)}
        {perDay > 0 && `, ${amount(perDay, unit)} more a day`}
        {fullFromMs !== null &&
          fullToMs !== null &&
          `; full between ${dayOf(fullFromMs)} and ${dayOf(fullToMs)} in eight of ten cases`}
        .{" "}
        {kind !== "tier" && (
          <SectionLink to={`/machines/${encodeURIComponent(machine)}`} className="word-link">
            {machine}
          </SectionLink>
        )}
        {reading && (
          <>
            {", "}
            <SectionLink
              to={`${readingAddress(reading, "lines")}&from=${new Date(nowMs - 56 * dayMs).toISOString()}&to=${new Date(nowMs).toISOString()}`}
              className="word-link"
            >
              its chart over eight weeks
            </SectionLink>
          </>
        )}
      </p>
      {kind !== "tier" && (
        <p className="mt-1 leading-8">
          What if it grew{" "}
          <NumberField label="how many times as fast" value={faster} usual="1" className="w-16" onChange={setFaster} />{" "}
          times as fast, <NumberField label="added once" value={added} usual="0" className="w-20" onChange={setAdded} />{" "}
          {words} were added once,{" "}
          <NumberField label="moved away" value={moved} usual="0" className="w-20" onChange={setMoved} />{" "}
          {unit === "By" ? "GB" : ""} moved away, and it held{" "}
          <NumberField
            label="size"
            value={larger}
            usual={String(Math.round(size / by))}
            className="w-24"
            onChange={setLarger}
          />{" "}
          {unit === "By" ? "GB" : ""}?
        </p>
      )}
      {isAsked && (
        <p className="mt-1 font-semibold" data-then>
          {then.fullFromMs === null
            ? "It would not fill."
            : `It would be full ${whenWords(then.fullFromMs, then.fullToMs, nowMs)}${then.fullToMs !== null && then.fullToMs > nowMs && then.fullToMs - nowMs < 3 * 365 * dayMs ? `, between ${dayOf(then.fullFromMs)} and ${dayOf(then.fullToMs)}` : ""}.`}
        </p>
      )}
    </div>
  );
}
