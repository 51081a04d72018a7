import type { ReactNode } from "react";
import type { FitAnswer, FitGuestView } from "../../../../../core/api/fit.ts";
import { amount } from "../../../../../core/planning/space-words.ts";
import { figures } from "../../../../../core/units/present.ts";
import { SelectPart } from "../../../sentence/select-part.tsx";

interface GuestsTableProps {
  readonly answer: FitAnswer;
  readonly kept: readonly string[];
  readonly onKeep: (kept: readonly string[]) => void;
  readonly onPlace: (guest: string, host: string) => void;
}

/** Every guest: where it is, where it would be, what it was given and needed; it is moved, or told to stay, here. */
export function GuestsTable({ answer, kept, onKeep, onPlace }: GuestsTableProps): ReactNode {
  const hostOf = new Map(answer.hosts.flatMap(({ machine, guests }) => guests.map((guest) => [guest, machine])));
  const hosts = answer.hosts.map(({ machine }) => [machine, machine] as const);
  return (
    <div className="mt-5 overflow-x-auto">
      <table className="w-full text-[14px]" data-guests>
        <caption className="sr-only">Guests and containers</caption>
        <thead>
          <tr className="text-[13px] text-quiet">
            <th className="pr-3 text-left font-normal">guest</th>
            <th className="px-2 text-left font-normal">would run on</th>
            <th className="px-2 text-right font-normal">processors</th>
            <th className="px-2 text-right font-normal">memory</th>
            <th className="hidden px-2 text-right font-normal md:table-cell">network</th>
            <th className="hidden px-2 text-right font-normal md:table-cell">disk operations</th>
            <th className="px-2 text-left font-normal">given more than it needs</th>
            <th className="not-in-print px-2 text-left font-normal">
              <span className="sr-only">stay</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {answer.guests.map((guest) => {
            const now = hostOf.get(guest.guest) ?? guest.host;
            const stays = kept.includes(guest.guest);
            return (
              <tr key={guest.guest} className="border-t border-hairline align-baseline" data-guest={guest.guest}>
                <td className="py-1 pr-3 font-semibold">{guest.guest}</td>
                <td className="px-2">
                  <SelectPart
                    label={`host of ${guest.guest}`}
                    value={now}
                    options={hosts}
                    onChange={(host) => onPlace(guest.guest, host)}
                  />
                  {now !== guest.host && <span className="ml-2 text-[13px] text-quiet">from {guest.host}</span>}
                </td>
                <Amount guest={guest} r={0} />
                <Amount guest={guest} r={1} />
                <Amount guest={guest} r={2} isWide />
                <td className="figure hidden px-2 text-right whitespace-nowrap md:table-cell">
                  {guest.diskOperations === null ? "–" : `${figures(guest.diskOperations)}/s`}
                </td>
                <td className="px-2 text-[13px]">{wouldWords(guest)}</td>
                <td className="not-in-print px-2">
                  <label className="text-[13px] whitespace-nowrap">
                    <input
                      type="checkbox"
                      checked={stays}
                      onChange={() =>
                        onKeep(stays ? kept.filter((name) => name !== guest.guest) : [...kept, guest.guest])
                      }
                    />{" "}
                    stays
                  </label>
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </div>
  );
}

function Amount({ guest, r, isWide = false }: { guest: FitGuestView; r: number; isWide?: boolean }): ReactNode {
  const peak = guest.peak[r];
  const given = peak?.capacity;
  return (
    <td
      className={`figure px-2 text-right whitespace-nowrap ${isWide ? "hidden md:table-cell" : ""}`}
      title={
        peak
          ? `at most ${amount(peak.most, peak.unit)}${given ? `, given ${amount(given, peak.unit)}` : ""}`
          : undefined
      }
    >
      {peak ? amount(peak.needed, peak.unit) : "–"}
      {given ? <span className="text-quiet"> of {amount(given, peak.unit)}</span> : null}
    </td>
  );
}

const wouldWords = ({ would }: FitGuestView): string =>
  would
    .map(({ resource, unit, given, needs }) => `${resource}: ${amount(needs, unit)} would do of ${amount(given, unit)}`)
    .join("; ");
