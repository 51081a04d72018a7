import type { Emit } from "../../counters/counter.ts";
import { eachLine, numberIn } from "./lines.ts";

/**
 * /proc/net/dev: eight columns received, eight transmitted (proc(5)). The loopback interface is left out: it is no
 * network. `hasDevice` says whether there is a device
 * behind an interface (/sys/class/net/NAME/device): what bridges, virtual pairs, tunnels, bonds and VLANs carry is
 * carried by one that has, so they are counters of their
 * own and are not added. Where none has one, as inside a container, all of them are the network.
 */
export function readProcNetDev(text: string, emit: Emit, hasDevice: (name: string) => boolean = () => true): void {
  const rows: { readonly name: string; readonly columns: readonly number[] }[] = [];
  eachLine(text, (_, line) => {
    const colon = line.lastIndexOf(":");
    if (colon < 0) return;
    const name = line.slice(0, colon).trim();
    const columns = line
      .slice(colon + 1)
      .trim()
      .split(/\s+/)
      .map(numberIn);
    if (columns.length >= 16 && name !== "lo") rows.push({ name, columns });
  });
  const anyDevice = rows.some(({ name }) => hasDevice(name));
  for (const { name, columns } of rows) {
    const isVirtual = anyDevice && !hasDevice(name);
    const directions = [
      ["receive", 0],
      ["transmit", 8],
    ] as const;
    for (const [direction, at] of directions) {
      const tags = { interface: name, direction };
      emit(isVirtual ? "system.network.virtual.io" : "system.network.io", tags, columns[at]);
      if (isVirtual) continue;
      emit("system.network.packet.count", tags, columns[at + 1]);
      emit("system.network.errors", tags, columns[at + 2]);
      emit("system.network.packet.dropped", tags, columns[at + 3]);
    }
  }
}
