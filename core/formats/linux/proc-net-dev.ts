import type { Emit } from "../../counters/counter.ts";
import { eachLine, numberIn } from "./lines.ts";

/** /proc/net/dev: eight columns received, eight transmitted (proc(5)). The loopback interface is left out: it is no network. */
export function readProcNetDev(text: string, emit: Emit): void {
  eachLine(text, (_, line) => {
    const colon = line.lastIndexOf(":");
    if (colon < 0) return;
    const name = line.slice(0, colon).trim();
    const columns = line.slice(colon + 1).trim().split(/\s+/).map(numberIn);
    if (columns.length < 16 || name === "lo") return;
    const directions = [["receive", 0], ["transmit", 8]] as const;
    for (const [direction, at] of directions) {
      const tags = { interface: name, direction };
      emit("system.network.io", tags, columns[at] as number);
      emit("system.network.packet.count", tags, columns[at + 1] as number);
      emit("system.network.errors", tags, columns[at + 2] as number);
      emit("system.network.packet.dropped", tags, columns[at + 3] as number);
    }
  });
}
