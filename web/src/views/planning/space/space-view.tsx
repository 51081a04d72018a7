import { Called } from "../../../shared/machines/called.tsx";
import { useQuery } from "@tanstack/react-query";
import { Fragment, type ReactNode, useState } from "react";
import type { SpaceView as Space } from "../../../../../core/api/space.ts";
import { amount, spaceWords, whenWords } from "../../../../../core/planning/space-words.ts";
import { figures } from "../../../../../core/units/present.ts";
import { spaceQuery } from "../../../api/queries.ts";
import { Asking } from "../asking.tsx";
import { PlanningHeading } from "../planning-heading.tsx";
import { FillStrip } from "./fill-strip.tsx";
import { GivenFills } from "./given-fills.tsx";
import { WhatIfPart } from "./what-if-part.tsx";

/** Everything that fills, what is full first on top; each can be looked at as if it were otherwise. */
export function SpaceView(): ReactNode {
  const space = useQuery(spaceQuery);
  const [nowMs] = useState(Date.now);
  const [open, setOpen] = useState<string | null>(null);
  const words = space.data ? spaceWords(space.data, nowMs) : [];
  return (
    <section aria-label="Space">
      <PlanningHeading />
      <Asking of={space} />
      {words.length > 0 && (
        <div className="mt-4 max-w-prose space-y-1 text-[17px]" data-space-words>
          {words.map((one) => (
            <p key={one}>{one}</p>
          ))}
        </div>
      )}
      {space.data?.length === 0 && (
        <p className="py-6 text-quiet">
          Nothing that fills is gathered yet: filesystems, pools and guests' disks stand here.
        </p>
      )}
      {space.data && space.data.length > 0 && (
        <div className="mt-4 overflow-x-auto">
          <table className="w-full text-[14px]" data-space-table>
            <caption className="sr-only">What fills, and when it is full</caption>
            <thead>
              <tr className="text-[13px] text-quiet">
                <th className="pr-3 text-left font-normal">what</th>
                <th className="hidden w-[20%] pr-3 text-left font-normal md:table-cell">eight weeks</th>
                <th className="px-2 text-right font-normal">used</th>
                <th className="px-2 text-right font-normal">a day</th>
                <th className="px-2 text-right font-normal">this week</th>
                <th className="px-2 text-left font-normal" title="eight in ten lie in this range">
                  full
                </th>
                <th
                  className="hidden px-2 text-right font-normal lg:table-cell"
                  title="what was foreseen one, two and four weeks ago for today, less what came, in percent of its size"
                >
                  foreseen 1, 2, 4 weeks ago
                </th>
              </tr>
            </thead>
            <tbody>
              {space.data.map((one) => {
                const key = `${one.machine} ${one.what}`;
                return (
                  <Fragment key={key}>
                    <Row
                      one={one}
                      nowMs={nowMs}
                      isOpen={open === key}
                      onOpen={() => setOpen(open === key ? null : key)}
                    />
                    {open === key && (
                      <tr>
                        <td colSpan={7} className="pb-4">
                          <WhatIfPart one={one} nowMs={nowMs} />
                        </td>
                      </tr>
                    )}
                  </Fragment>
                );
              })}
            </tbody>
          </table>
        </div>
      )}
      <GivenFills />
    </section>
  );
}

interface RowProps {
  readonly one: Space;
  readonly nowMs: number;
  readonly isOpen: boolean;
  readonly onOpen: () => void;
}

function Row({ one, nowMs, isOpen, onOpen }: RowProps): ReactNode {
  const { machine, what, used, size, unit, perDay, weekChange, fullFromMs, fullToMs, why, error, strip } = one;
  const share = used / size;
  const soon = fullFromMs !== null && fullFromMs - nowMs < 14 * 86_400_000;
  return (
    <tr className="border-t border-hairline align-baseline" data-space={`${machine} ${what}`}>
      <td className="py-1.5 pr-3">
        <button type="button" className="word-link text-left" aria-expanded={isOpen} onClick={onOpen}>
          <Called machine={machine} />: {what}
        </button>
      </td>
      <td className="hidden pr-3 md:table-cell">
        <FillStrip strip={strip} share={share} />
      </td>
      <td className="figure px-2 text-right whitespace-nowrap" title={`${amount(used, unit)} of ${amount(size, unit)}`}>
        {figures(share * 100)} %
      </td>
      <td className="figure px-2 text-right whitespace-nowrap">
        {Math.abs(perDay) < 1e-4 * size ? "–" : signed(perDay, unit)}
      </td>
      <td className="figure px-2 text-right whitespace-nowrap">
        {weekChange === null || Math.abs(weekChange) < 1e-3 * size ? "–" : signed(weekChange, unit)}
      </td>
      <td className={`px-2 ${soon ? "font-semibold text-notice" : fullFromMs === null ? "text-quiet" : ""}`}>
        {fullFromMs === null ? why : whenWords(fullFromMs, fullToMs, nowMs)}
      </td>
      <td className="figure hidden px-2 text-right whitespace-nowrap lg:table-cell">
        {[error.days7, error.days14, error.days28].map(errorText).join("  ")}
      </td>
    </tr>
  );
}

const signed = (value: number, unit: string): string => `${value < 0 ? "−" : "+"}${amount(Math.abs(value), unit)}`;

const errorText = (error: number | null): string =>
  error === null ? "–" : `${error < 0 ? "−" : "+"}${(Math.abs(error) * 100).toFixed(1)} %`;
