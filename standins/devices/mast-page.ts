import { always, between, Growth } from "../world/growth.ts";
import { noise } from "../world/noise.ts";
import { isWithin, type World } from "../world/world.ts";

const bounds = ["0.02", "0.05", "0.1", "0.2", "0.5", "1.0", "+Inf"] as const;
/** Answers a second in each, and how many more during shows. */
const quiet = [0.4, 1.1, 0.6, 0.15, 0.05, 0.02, 0.004];
const busyShare = [0, 0.1, 0.5, 0.6, 0.3, 0.08, 0.01];
const middles = [0.012, 0.034, 0.071, 0.14, 0.31, 0.7, 1.4];

/** `mast`, the box at the transmitter: an OpenMetrics page of its own words. Undefined while it cannot be reached. */
// biome-ignore lint/complexity/noExcessiveLinesPerFunction: one table of a device, row by row
export function mastPage(world: World): (second: number) => string | undefined {
  const sent = new Growth(700, [
    [41_000, always],
    [17_000, world.shows],
  ]);
  const received = new Growth(701, [[9500, always]]);
  const busy = new Growth(702, [
    [110, always],
    [60, world.shows],
  ]);
  // Answers over the radio link by how long they took: while a show is on air, more of them wait.
  const answers = bounds.map(
    (_, i) =>
      new Growth(720 + i, [
        [quiet[i] as number, always],
        [busyShare[i] as number, world.shows],
      ]),
  );
  return (second) => {
    if (isWithin(second, world.mastAway)) return undefined;
    const boot = world.bootOf("mast", second);
    const seconds = busy.at(second, boot) / 1000;
    const fell = answers.map((growth) => growth.at(second, boot));
    const upTo = fell.map((_, i) => fell.slice(0, i + 1).reduce((sum, n) => sum + n, 0));
    const forward = 96 + between(-2, 2, 703, second, 900);
    return `${[
      "# TYPE system_cpu_time counter",
      "# UNIT system_cpu_time ",
      "# HELP system_cpu_time Seconds of the box's processors.",
      `system_cpu_time_total{mode="user"} ${seconds.toFixed(3)}`,
      `system_cpu_time_total{mode="idle"} ${(2 * (second - boot) - seconds).toFixed(3)}`,
      "# TYPE transmitter_forward_power_watts gauge",
      "# UNIT transmitter_forward_power_watts watts",
      "# HELP transmitter_forward_power_watts Power that leaves for the aerial.",
      `transmitter_forward_power_watts ${forward.toFixed(1)}`,
      "# TYPE transmitter_reflected_power_watts gauge",
      "# UNIT transmitter_reflected_power_watts watts",
      "# HELP transmitter_reflected_power_watts Power that the aerial gives back.",
      `transmitter_reflected_power_watts ${(1.1 + 0.9 * between(0, 1, 704, second, 20_000)).toFixed(2)}`,
      "# TYPE transmitter_temperature_celsius gauge",
      "# UNIT transmitter_temperature_celsius celsius",
      "# HELP transmitter_temperature_celsius Heat sink of the last stage.",
      `transmitter_temperature_celsius ${(43 + 9 * Math.sin(((second + world.offsetSeconds) / 86_400) * 2 * Math.PI - 2.2) + between(-1, 1, 705, second, 600)).toFixed(1)}`,
      "# TYPE link_bytes counter",
      "# UNIT link_bytes bytes",
      "# HELP link_bytes Traffic over the radio link.",
      `link_bytes_total{direction="receive"} ${received.at(second, boot)}`,
      `link_bytes_total{direction="transmit"} ${sent.at(second, boot)}`,
      "# TYPE link_quality_ratio gauge",
      "# UNIT link_quality_ratio ratio",
      "# HELP link_quality_ratio How well the radio link is heard.",
      `link_quality_ratio ${between(0.56, 0.74, 706, second, 1800).toFixed(3)}`,
      "# TYPE link_round_trip_seconds histogram",
      "# UNIT link_round_trip_seconds seconds",
      "# HELP link_round_trip_seconds How long answers took over the radio link.",
      ...bounds.map((bound, i) => `link_round_trip_seconds_bucket{le="${bound}"} ${upTo[i]}`),
      `link_round_trip_seconds_count ${upTo.at(-1)}`,
      `link_round_trip_seconds_sum ${fell.reduce((sum, n, i) => sum + n * (middles[i] as number), 0).toFixed(3)}`,
      "# EOF",
    ]
      .join("\n")
      .replace("# UNIT system_cpu_time \n", "")}\n`;
  };
}

/** Whether the weak link loses an answer just then: one in sixty, and more when the weather is bad. */
export function isLost(second: number): boolean {
  return noise(710, Math.floor(second)) < 0.016 + 0.05 * Number(noise(711, Math.floor(second / 10_800)) > 0.9);
}
