import type { Emit } from "../../counters/counter.ts";

const running = 1; // virDomainState: VIR_DOMAIN_RUNNING

/**
 * `virsh domstats --raw`: a block a guest. Times are in ns, the balloon in KiB (virsh(1), domstats; virtio
 * specification §5.5.6.3: available is all that the guest sees, usable what it could get without swapping); traffic is
 * the guest's side. Gives the number of guests.
 */
export function readDomstats(text: string, emit: Emit): number {
  let guest: string | undefined;
  let guests = 0;
  let values = new Map<string, string>();
  const flush = () => {
    if (guest !== undefined) readGuest(guest, values, emit);
    values = new Map();
  };
  for (const line of text.split("\n")) {
    const name = /^Domain: '(.*)'\s*$/.exec(line)?.[1];
    if (name !== undefined) {
      flush();
      guest = name;
      guests++;
      continue;
    }
    const at = line.indexOf("=");
    if (at > 0) values.set(line.slice(0, at).trim(), line.slice(at + 1).trim());
  }
  flush();
  return guests;
}

function readGuest(guest: string, values: ReadonlyMap<string, string>, emit: Emit): void {
  const give = (counter: string, name: string, factor = 1, tags: Readonly<Record<string, string>> = {}) => {
    const text = values.get(name);
    if (text !== undefined && /^\d+$/.test(text)) emit(counter, { guest, ...tags }, Number(text) * factor);
  };
  if (values.has("state.state"))
    emit("guest.state.running", { guest }, Number(values.get("state.state")) === running ? 1 : 0);
  give("guest.cpu.time", "cpu.time", 1e-9);
  give("guest.cpu.count", "vcpu.current");
  give("guest.memory.limit", "balloon.current", 1024);
  // What the guest says of itself, by its balloon; what its process holds on the host may be more than the guest was
  // given.
  const kib = (name: string) => (/^\d+$/.test(values.get(name) ?? "") ? Number(values.get(name)) : undefined);
  const [available, usable] = [kib("balloon.available"), kib("balloon.usable") ?? kib("balloon.unused")];
  if (available !== undefined && usable !== undefined && usable <= available)
    emit("guest.memory.usage", { guest }, (available - usable) * 1024);
  give("guest.memory.resident", "balloon.rss", 1024);
  // No more are told than there are lines, whatever the count says.
  const count = (name: string) => Math.min(Number(values.get(name) ?? 0) || 0, values.size);
  for (let i = 0; i < count("net.count"); i++) {
    const name = values.get(`net.${i}.name`) ?? String(i);
    give("guest.network.io", `net.${i}.rx.bytes`, 1, { interface: name, direction: "receive" });
    give("guest.network.io", `net.${i}.tx.bytes`, 1, { interface: name, direction: "transmit" });
  }
  for (let i = 0; i < count("block.count"); i++) {
    const device = values.get(`block.${i}.name`) ?? String(i);
    give("guest.disk.usage", `block.${i}.allocation`, 1, { device });
    give("guest.disk.limit", `block.${i}.capacity`, 1, { device });
    for (const [short, direction] of [
      ["rd", "read"],
      ["wr", "write"],
    ] as const) {
      give("guest.disk.io", `block.${i}.${short}.bytes`, 1, { device, direction });
      give("guest.disk.operations", `block.${i}.${short}.reqs`, 1, { device, direction });
    }
  }
}
