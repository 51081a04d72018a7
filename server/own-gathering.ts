import type { Config } from "./config.ts";
import type { Database } from "./db/pool.ts";
import { OwnReadings } from "./gather/itself/own-readings.ts";
import { machineFiles } from "./gather/this-machine/machine-files.ts";
import { MachineTools } from "./gather/this-machine/machine-tools.ts";
import { OwnMachine } from "./gather/this-machine/own-machine.ts";
import { monthReadings } from "./planning/energy/month-readings.ts";
import type { SendingParts } from "./planning/month/month-sending.ts";
import type { ServerOptions } from "./running-server.ts";
import { connectOwnEngine } from "./sources/own-engine.ts";
import type { Sources } from "./sources/sources.ts";
import type { Store } from "./store/store.ts";

interface OwnParts {
  readonly sources: Sources;
  readonly store: Store;
  readonly database: Database;
  readonly planning: SendingParts;
}

/** Begins to gather the machine that the server runs on, with its containers; the files of another where some are given. */
export async function gatherOwnMachine(
  { machineName, gatherEveryMs, roots }: Config,
  { files: given, parent }: ServerOptions,
  { sources, store, database, planning }: OwnParts,
): Promise<void> {
  const files = given ?? machineFiles(roots);
  const isOwn = given === undefined && roots.proc === "/proc";
  const tools = isOwn ? new MachineTools(parent?.runsTools ? parent.run : undefined) : undefined;
  const gatherer = new OwnMachine(files, new OwnReadings(store, database, () => monthReadings(planning)), tools);
  await sources.gatherThisMachine(machineName, gatherEveryMs, gatherer);
  if (isOwn) await connectOwnEngine(sources, machineName, files);
}
