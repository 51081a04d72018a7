import type { Emit } from "../../counters/counter.ts";
import { sensorCounter } from "./sensor-counter.ts";

/**
 * The lines of `ipmitool -c sdr`: name, reading, unit, state. Sensors without a reading are left out; "percent" of a
 * fan is its speed's share.
 */
export function readIpmiSensors(text: string, emit: Emit): number {
  let found = 0;
  for (const line of text.split("\n")) {
    const [name, reading, unit, state] = line.split(",");
    if (name === undefined || reading === undefined || unit === undefined || state === undefined) continue;
    found++;
    const value = reading.trim() === "" ? Number.NaN : Number(reading);
    const sensor = sensorCounter(unit);
    if (state.trim() === "ns" || !Number.isFinite(value)) continue;
    if (sensor) emit(sensor.counter, { sensor: name.trim() }, value * sensor.factor);
    else if (/percent/i.test(unit) && /fan/i.test(name))
      emit("hw.fan.speed_ratio", { sensor: name.trim() }, value / 100);
    else continue; // discrete ones are "ok" whatever they mean
    if (["cr", "nc", "nr", "ok"].includes(state.trim()))
      emit("hw.healthy", { part: name.trim() }, state.trim() === "ok" ? 1 : 0);
  }
  return found;
}

/**
 * `ipmitool dcmi power reading`: the power now, and the controller's own mean over its period. Form from memory of the
 * tool's source.
 */
export function readDcmiPower(text: string, emit: Emit): boolean {
  const watts = (words: string) =>
    Number(new RegExp(`${words}:\\s*(\\d+)\\s*Watts`, "i").exec(text)?.[1] ?? Number.NaN);
  const [now, mean] = [watts("Instantaneous power reading"), watts("Average power reading over sample period")];
  if (!Number.isFinite(now)) return false;
  emit("hw.power", { sensor: "whole machine" }, now);
  const period = Number(/Sampling period:\s*0*(\d+)\s*Seconds/i.exec(text)?.[1] ?? Number.NaN);
  if (Number.isFinite(mean))
    emit(
      "hw.power.own_mean",
      { sensor: "whole machine", ...(Number.isFinite(period) && { over: `${period} s` }) },
      mean,
    );
  return true;
}
