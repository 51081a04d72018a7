import type { ReactNode } from "react";
import { useTime } from "../../time/time-provider.tsx";
import { Quantity } from "../../ui/quantity.tsx";
import { one } from "../../shared/bands/band.ts";
import { useReading } from "../../sentence/use-reading.ts";

const hourMs = 3_600_000;

/** The mean of the last hour's readings beside the device's own figure, where it gives one: they should be alike. */
export function PowerCheck({ machine }: { machine: string }): ReactNode {
  const { nowMs } = useTime();
  const minute = Math.floor(nowMs / 60_000) * 60_000;
  const span = { fromMs: minute - hourMs, toMs: minute };
  const power = useReading(one("hw.power", machine), span, 60).data?.lines ?? [];
  const own = useReading(one("hw.power.own_mean", machine), span, 60).data?.lines ?? [];
  const rows = own.map((line) => ({
    sensor: line.tags["sensor"] ?? "",
    over: line.tags["over"],
    own: line.last,
    mean: power.find(({ tags }) => tags["sensor"] === line.tags["sensor"])?.mean ?? null,
  }));
  const shown =
    rows.length > 0
      ? rows
      : power
          .slice(0, 4)
          .map((line) => ({ sensor: line.tags["sensor"] ?? "", over: undefined, own: null, mean: line.mean }));
  if (shown.length === 0) return null;
  return (
    <div className="text-[13px]" data-power-check>
      <p className="text-quiet">mean of the last hour</p>
      {shown.map(({ sensor, over, own: said, mean }) => (
        <p key={sensor} className="pt-1">
          {sensor}: {mean === null ? "–" : <Quantity value={mean} unit="W" />}
          {said !== null && (
            <span className="block text-quiet">
              the device's own mean{over ? ` over ${over}` : ""}: <Quantity value={said} unit="W" />
            </span>
          )}
        </p>
      ))}
    </div>
  );
}
