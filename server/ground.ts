import { unseenOf } from "./gather/this-machine/unseen.ts";
import { isContained } from "./transport/contained.ts";
import { settleKey } from "./keys/change-key.ts";
import { ServerClock } from "./clock/server-clock.ts";
import type { Config } from "./config.ts";
import { openClaimedDatabase } from "./db/claimed-database.ts";
import type { DisposalStack } from "./disposal-stack.ts";
import { insertEvents, type NewEvent } from "./events/event-rows.ts";
import { LiveHub } from "./live/live-hub.ts";
import { MachineList } from "./machines/machine-list.ts";
import { MachineNames } from "./machines/machine-names.ts";
import { PushKeys } from "./messages/push-keys.ts";
import { hearsOf } from "./people/sight.ts";
import { signInKey } from "./people/signed-in.ts";
import { newPass } from "./beside/beside.ts";
import { Tokens } from "./people/tokens.ts";
import type { ServerOptions } from "./running-server.ts";
import { leasesOfOthers } from "./sharing/lease-rows.ts";
import { takeRecords } from "./sharing/shared-records-router.ts";
import { SharingOut } from "./sharing/sharing-out.ts";
import { Forwarding } from "./forwarding/forwarding.ts";
import { RelayDesk } from "./relay/relay-desk.ts";
import { SecretBox } from "./sources/secret-box.ts";
import { Slowness } from "./slowness/slowness.ts";
import { Sources } from "./sources/sources.ts";
import { Keeping } from "./store/keeping.ts";
import { Transport } from "./transport/transport.ts";

/** Opens what the other parts stand on: the database, the store, the sources and how the server is reached, in order, on the stack. */
export async function openGround(
  open: DisposalStack,
  config: Config,
  { log, lost = (error) => log.error(error.message), before, files, taken }: ServerOptions,
) {
  const { database, isHeld, instance } = open.use(
    await openClaimedDatabase(config.databaseUrl, lost, config.isOneOfSeveral, taken?.claim),
  );
  const clock = await ServerClock.open(database);
  const slowness = open.use(new Slowness({ database, machine: config.machineName, log }));
  const keeping = open.use(
    await Keeping.open({ ...config, database, isHeld, instance, actingMs: clock.actingMs, slowness, log }),
  );
  const { store, pool } = keeping;
  const pass = config.isOneOfSeveral ? newPass() : undefined;
  await before?.(store, database);
  if (config.keyFile !== undefined) await settleKey(database, config.keyFile);
  const box = SecretBox.open(config.keyFile);
  const pushKeys = new PushKeys(database, box);
  const leases = await leasesOfOthers(database, config.isOneOfSeveral);
  const heard = {
    lent: leases,
    told: (ms: number) => clock.told(ms),
    noteEvents: (events: readonly NewEvent[]) => insertEvents(database, events),
  };
  const sources = open.use(await Sources.open(database, store, box, log, heard));
  takeRecords(sources, taken?.gathered ?? []).catch((error) =>
    log.warn({ err: error }, "what was gathered before this server led was not stored"),
  );
  if (config.isOneOfSeveral) open.use(new SharingOut({ database, sources, log })).start();
  const relays = open.use(new RelayDesk(sources, log));
  const forwarding = open.use(await Forwarding.open({ database, store, box, log }));
  const names = await MachineNames.open(database);
  const machines = new MachineList(store, sources, names);
  const tokens = new Tokens(database);
  const transport = open.use(await Transport.open(config, log));
  const live = open.use(new LiveHub({ keyOf: signInKey, hears: hearsOf }));
  store.onCommit(() => live.publish({ kind: "samples", atMs: Date.now() }));
  const { signInHeader } = config;
  const unseen = files ? [] : unseenOf(config.roots, isContained(), config.names);
  return {
    unseen,
    signInHeader,
    pass,
    database,
    clock,
    box,
    pushKeys,
    log,
    live,
    store,
    pool,
    keeping,
    slowness,
    sources,
    relays,
    forwarding,
    names,
    machines,
    tokens,
    transport,
  };
}
