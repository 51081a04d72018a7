import { join } from "node:path";
import type { Logger } from "pino";
import { KeptOrders } from "../server/relay/there/kept-orders.ts";
import { Relay } from "../server/relay/there/relay.ts";
import { RelayLink } from "../server/relay/there/relay-link.ts";
import { RelaySpool } from "../server/relay/there/relay-spool.ts";
import type { RunningServer } from "../server/running-server.ts";
import { version } from "../server/version.ts";
import type { World } from "../standins/world/world.ts";

/** The relay at the mast, which is a box of little more than a clock, and asks the transmitter's page. */
export async function startMastRelay(
  { address, transport }: Pick<RunningServer, "address" | "transport">,
  token: string,
  { world, folder, log }: { readonly world: World; readonly folder: string; readonly log: Logger },
): Promise<Relay> {
  const { kind, pin } = transport.view(Date.now());
  const uptime = (nowMs: number) => Math.floor(nowMs / 1000) - world.bootOf("mast", Math.floor(nowMs / 1000));
  const relay = new Relay({
    link: new RelayLink({ to: address, token, pin: kind === "house" ? (pin ?? undefined) : undefined }),
    spool: new RelaySpool(join(folder, "spool")),
    orders: new KeptOrders(join(folder, "orders.json")),
    own: {
      gather: async (nowMs) => ({
        readings: [{ counter: "system.uptime", tags: {}, value: uptime(nowMs) }],
        raw: `system.uptime ${uptime(nowMs)}`,
        rawType: "text/plain",
      }),
      close: async () => {},
    },
    version,
    log,
    say: () => {},
  });
  await relay.start();
  return relay;
}
