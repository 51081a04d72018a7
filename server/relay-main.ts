import { mkdirSync } from "node:fs";
import { join } from "node:path";
import pino from "pino";
import { stayUp } from "./stay-up.ts";
import { version } from "./version.ts";
import { KeptOrders } from "./relay/there/kept-orders.ts";
import { Relay } from "./relay/there/relay.ts";
import { type LinkSettings, RelayLink } from "./relay/there/relay-link.ts";
import { RelayMachine } from "./relay/there/relay-machine.ts";
import { RelaySpool } from "./relay/there/relay-spool.ts";

// `nubrel relay`: the command line has looked at what it was given and hands it over here.

interface Given extends LinkSettings {
  readonly folder: string;
  readonly mostBytes: number;
}

const { NUBREL_RELAY, NUBREL_LOG } = process.env;
const { folder, mostBytes, ...settings } = JSON.parse(NUBREL_RELAY ?? "{}") as Given;
const log = pino({ name: "nubrel-relay", level: NUBREL_LOG ?? "warn" }, pino.destination({ dest: 2, sync: true }));
stayUp(log);
mkdirSync(folder, { recursive: true, mode: 0o700 });
const relay = new Relay({
  link: new RelayLink(settings),
  spool: new RelaySpool(join(folder, "spool"), mostBytes),
  orders: new KeptOrders(join(folder, "orders.json")),
  own: new RelayMachine(),
  version,
  log,
  say: (words) => process.stdout.write(`  ${words}\n`),
});
await relay.start();
let isStopping = false;
const stop = () => {
  if (isStopping) return;
  isStopping = true;
  void relay.close().then(() => process.exit(0));
};
process.on("SIGINT", stop);
process.on("SIGTERM", stop);
