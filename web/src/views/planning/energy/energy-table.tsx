import { Fragment, type ReactNode, useState } from "react";
import type { EnergyLine } from "../../../../../core/api/energy.ts";
import { kilowattHours, money } from "../../../../../core/tariffs/cost-words.ts";
import { figures } from "../../../../../core/units/present.ts";

/** A row a line: how much, what it cost, its share; each opens how that was made. */
export function EnergyTable({ lines }: { lines: readonly EnergyLine[] }): ReactNode {
  const [open, setOpen] = useState<string | null>(null);
  if (lines.length === 0)
    return (
      <p className="max-w-prose text-quiet">
        Nothing here measures power or energy of this kind. A management controller, a supply, an outlet or the kernel's
        own counters of energy would: connect one under Sources, or say below what a machine draws.
      </p>
    );
  const most = Math.max(...lines.map(({ wattHours }) => wattHours), 1e-9);
  return (
    <div className="overflow-x-auto" data-energy-table>
      <table className="w-full text-[14px]">
        <caption className="sr-only">Energy and its cost</caption>
        <thead>
          <tr className="text-[13px] text-quiet">
            <th className="pr-3 text-left font-normal">what</th>
            <th className="hidden w-[26%] sm:table-cell">
              <span className="sr-only">beside each other</span>
            </th>
            <th className="px-2 text-right font-normal">energy</th>
            <th className="hidden px-2 text-right font-normal sm:table-cell">mean</th>
            <th className="px-2 text-right font-normal">cost</th>
            <th className="px-2 text-right font-normal">share</th>
            <th className="hidden px-2 text-right font-normal sm:table-cell">missing</th>
          </tr>
        </thead>
        <tbody>
          {lines.map((line) => (
            <Fragment key={line.of}>
              <Row
                line={line}
                most={most}
                isOpen={open === line.of}
                onOpen={() => setOpen(open === line.of ? null : line.of)}
              />
              {open === line.of && (
                <tr>
                  <td colSpan={7} className="pb-3">
                    <HowMade line={line} />
                  </td>
                </tr>
              )}
            </Fragment>
          ))}
        </tbody>
      </table>
    </div>
  );
}

interface RowProps {
  readonly line: EnergyLine;
  readonly most: number;
  readonly isOpen: boolean;
  readonly onOpen: () => void;
}

function Row({ line, most, isOpen, onOpen }: RowProps): ReactNode {
  const {
    of,
    wattHours,
    meanWatts,
    cost,
    currency,
    share,
    missingShare,
    estimated,
    isPart,
    feedsOthers,
    filledWattHours,
  } = line;
  const width = `${Math.max(0.5, (wattHours / most) * 100)}%`;
  return (
    <tr className="border-t border-hairline align-baseline" data-energy={of}>
      <td className="py-1 pr-3">
        <button type="button" className="word-link text-left" aria-expanded={isOpen} onClick={onOpen}>
          {of}
        </button>
        {estimated && <span className="ml-2 text-[13px] text-quiet">estimated</span>}
        {isPart && <span className="ml-2 text-[13px] text-quiet">processor alone</span>}
        {feedsOthers && <span className="ml-2 text-[13px] text-quiet">feeds others, not added</span>}
      </td>
      <td className="hidden py-1 sm:table-cell">
        <span
          aria-hidden="true"
          className="block h-[10px]"
          style={
            estimated || feedsOthers
              ? { width, border: "1px dashed var(--quiet)" }
              : { width, background: "var(--act)", opacity: 0.75 }
          }
        />
      </td>
      <td className="figure px-2 text-right whitespace-nowrap">
        {kilowattHours(wattHours)}
        {filledWattHours > 0 && <span title={`${kilowattHours(filledWattHours)} of it by what is usual`}> ~</span>}
      </td>
      <td className="figure hidden px-2 text-right whitespace-nowrap sm:table-cell">
        {meanWatts === null ? "–" : `${figures(meanWatts)} W`}
      </td>
      <td className="figure px-2 text-right whitespace-nowrap">
        {cost === null || currency === null ? "–" : money(cost, currency)}
      </td>
      <td className="figure px-2 text-right whitespace-nowrap">{share === null ? "–" : `${figures(share * 100)} %`}</td>
      <td className="figure hidden px-2 text-right whitespace-nowrap sm:table-cell">
        {missingShare < 0.001 ? "–" : `${figures(missingShare * 100)} %`}
      </td>
    </tr>
  );
}

function HowMade({ line }: { line: EnergyLine }): ReactNode {
  const { method, formula, compared, ownMeanWatts, meanWatts, grams, filledWattHours } = line;
  return (
    <dl className="grid max-w-prose grid-cols-[auto_1fr] gap-x-4 gap-y-0.5 text-[13.5px]">
      <dt className="text-quiet">measured by</dt>
      <dd>{method}</dd>
      {formula && (
        <>
          <dt className="text-quiet">cost</dt>
          <dd className="figure">{formula}</dd>
        </>
      )}
      {filledWattHours > 0 && (
        <>
          <dt className="text-quiet">filled in</dt>
          <dd>{kilowattHours(filledWattHours)} by what is usual of the hours that are missing</dd>
        </>
      )}
      {compared && (
        <>
          <dt className="text-quiet">compared</dt>
          <dd>
            {compared.method}: {kilowattHours(compared.wattHours)} beside {kilowattHours(compared.against)} in the time
            that both know
          </dd>
        </>
      )}
      {ownMeanWatts !== null && meanWatts !== null && (
        <>
          <dt className="text-quiet">its own mean</dt>
          <dd>
            {figures(ownMeanWatts)} W as the device works it out, {figures(meanWatts)} W as we do
          </dd>
        </>
      )}
      {grams !== null && (
        <>
          <dt className="text-quiet">carbon dioxide</dt>
          <dd>{figures(grams / 1000)} kg</dd>
        </>
      )}
    </dl>
  );
}
