import type { Emit } from "../../counters/counter.ts";

const counters: Readonly<Record<string, readonly [counter: string, sensor: string | undefined, factor: number]>> = {
  "battery.charge": ["hw.battery.charge", undefined, 0.01],
  "battery.runtime": ["hw.battery.time_left", undefined, 1],
  "battery.voltage": ["hw.voltage", "battery", 1],
  "battery.current": ["hw.current", "battery", 1],
  "battery.temperature": ["hw.temperature", "battery", 1],
  "ups.temperature": ["hw.temperature", "case", 1],
  "ups.load": ["ups.load", "output", 0.01],
  "ups.realpower": ["hw.power", "output", 1],
  "input.realpower": ["hw.power", "input", 1],
  "input.voltage": ["hw.voltage", "input", 1],
  "input.current": ["hw.current", "input", 1],
  "input.frequency": ["hw.frequency", "input", 1],
  "output.voltage": ["hw.voltage", "output", 1],
  "output.current": ["hw.current", "output", 1],
  "output.frequency": ["hw.frequency", "output", 1],
};

/**
 * The lines `name: value` that `upsc` prints. Status words: OL on line, OB on battery, LB low battery, RB replace
 * battery. Where the supply tells no watts,
 * they are worked out from its load and its nominal power. Gives how many lines were understood.
 */
export function readUpsc(text: string, emit: Emit): number {
  const values = new Map<string, string>();
  for (const line of text.split("\n")) {
    const at = line.indexOf(": ");
    if (at > 0) values.set(line.slice(0, at), line.slice(at + 2).trim());
  }
  let understood = 0;
  for (const [name, [counter, sensor, factor]] of Object.entries(counters)) {
    const text = values.get(name);
    const value = Number(text);
    if (text === undefined || text === "" || !Number.isFinite(value)) continue;
    understood++;
    emit(counter, sensor === undefined ? {} : { sensor }, value * factor);
  }
  const words = values.get("ups.status")?.split(/\s+/);
  if (words) {
    understood++;
    emit("ups.on_battery", {}, words.includes("OB") ? 1 : 0);
    emit("hw.battery.healthy", {}, words.includes("LB") || words.includes("RB") ? 0 : 1);
  }
  const [load, nominal] = [Number(values.get("ups.load")), Number(values.get("ups.realpower.nominal"))];
  if (!values.has("ups.realpower") && load >= 0 && nominal > 0)
    emit("hw.power", { sensor: "output" }, (load / 100) * nominal);
  return understood;
}
