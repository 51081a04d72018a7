import type { Emit } from "../../counters/counter.ts";
import { serviceName } from "../network/services.ts";

const mostSockets = 50_000;

/**
 * Adds up what TCP connections with other machines have carried, by application protocol, from `ss -tinHO state
 * established` (ss(8)): each line tells the bytes of one socket since it was
 * opened. What a connection carries after it was looked at last, before it ends, is not counted; nor are connections
 * that were open before the first look, but for what they carry from then on.
 */
export class SocketBytes {
  #before = new Map<string, { readonly sent: number; readonly received: number }>();
  #isFirst = true;
  readonly #totals = new Map<string, { sent: number; received: number }>();

  read(text: string, emit: Emit): void {
    const now = new Map<string, { readonly sent: number; readonly received: number }>();
    for (const line of text.split("\n")) {
      if (now.size >= mostSockets) break;
      const words = line.trim().split(/\s+/);
      const places = words.filter((word) => /^\S+:\d+$/.test(word) && !word.includes("_")).slice(0, 2);
      const [local, remote] = places as [string?, string?];
      if (local === undefined || remote === undefined || isOwn(remote)) continue;
      const bytes = (name: string) =>
        Number(words.find((word) => word.startsWith(`${name}:`))?.slice(name.length + 1) ?? 0);
      const told = { sent: bytes("bytes_acked"), received: bytes("bytes_received") };
      if (!Number.isFinite(told.sent) || !Number.isFinite(told.received)) continue;
      const key = `${local} ${remote}`;
      now.set(key, told);
      const before = this.#before.get(key) ?? (this.#isFirst ? told : { sent: 0, received: 0 });
      const isSame = told.sent >= before.sent && told.received >= before.received;
      const protocol = protocolOf(local, remote);
      const total = this.#totals.get(protocol) ?? { sent: 0, received: 0 };
      total.sent += told.sent - (isSame ? before.sent : 0);
      total.received += told.received - (isSame ? before.received : 0);
      this.#totals.set(protocol, total);
    }
    this.#before = now;
    this.#isFirst = false;
    for (const [protocol, { sent, received }] of this.#totals) {
      emit(
        "system.network.protocol.io",
        { interface: "all", direction: "receive", protocol, transport: "tcp" },
        received,
      );
      emit("system.network.protocol.io", { interface: "all", direction: "transmit", protocol, transport: "tcp" }, sent);
    }
  }
}

function protocolOf(local: string, remote: string): string {
  const ports = [local, remote].map((place) => Number(place.slice(place.lastIndexOf(":") + 1))).sort((a, b) => a - b);
  return ports.map(serviceName).find((name) => name !== undefined) ?? "others";
}

function isOwn(place: string): boolean {
  return /^(\[?(::ffff:)?127\.|\[::1\])/.test(place);
}
