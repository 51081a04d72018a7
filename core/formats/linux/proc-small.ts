import type { Emit } from "../../counters/counter.ts";
import { eachLine, numberIn } from "./lines.ts";

/** /proc/loadavg: three means over 1, 5 and 15 minutes, then runnable/existing tasks (proc(5)). */
export function readProcLoadavg(text: string, emit: Emit): void {
  const fields = text.trim().split(/\s+/);
  (["1m", "5m", "15m"] as const).forEach((over, i) => {
    const value = numberIn(fields[i]);
    if (!Number.isNaN(value)) emit("system.cpu.load_average", { over }, value);
  });
}

/** /proc/uptime: seconds since the start of the machine (proc(5)). */
export function readProcUptime(text: string, emit: Emit): void {
  const value = numberIn(text.trim().split(/\s+/)[0]);
  if (!Number.isNaN(value)) emit("system.uptime", {}, value);
}

/** /proc/pressure/RESOURCE: `total` is microseconds stalled (kernel, Documentation/accounting/psi.rst). */
export function readPressure(resource: string, text: string, emit: Emit): void {
  eachLine(text, (fields) => {
    const who = fields[0] as string;
    const total = fields.find((field) => field.startsWith("total="));
    const value = numberIn(total?.slice("total=".length));
    if ((who === "some" || who === "full") && !Number.isNaN(value))
      emit("system.pressure.stalled_time", { resource, who }, value / 1e6);
  });
}

/**
 * A sensor's `tempN_input` below /sys/class/hwmon or a thermal zone's `temp`: thousandths of a degree Celsius (kernel,
 * Documentation/hwmon/sysfs-interface.rst).
 */
export function readTemperature(sensor: string, text: string, emit: Emit): void {
  const value = numberIn(text.trim());
  if (!Number.isNaN(value)) emit("hw.temperature", { sensor }, value / 1000);
}
