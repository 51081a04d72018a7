import { isIP } from "node:net";
import { ConfigError } from "../server/config.ts";
import { runServer } from "../server/main.ts";
import { createOwner, hasOwner } from "../server/people/account-rows.ts";
import { hashPassword } from "../server/people/password.ts";
import { PlayoutFiles } from "../standins/playout/playout-files.ts";
import { World } from "../standins/world/world.ts";
import { readWorldState } from "./demo-state.ts";
import { DemoWorld } from "./demo-world.ts";

// The sample world: Kestrel Quay's machines as stand-ins that speak the real protocols, and thirty days of their past.

const owner = { name: "Ines", password: "kestrel on the quay" } as const;
const offsetSeconds = -new Date().getTimezoneOffset() * 60;

process.env["NUBREL_MACHINE"] = "playout";
let files: PlayoutFiles | undefined;
let world: DemoWorld | undefined;
const playout = () => files as PlayoutFiles;

await runServer(
  (config) => {
    if (
      !(
        config.host === "localhost" ||
        config.host === "::1" ||
        (isIP(config.host) === 4 && config.host.startsWith("127."))
      )
    )
      throw new ConfigError(
        "Everybody knows the password of the sample world's owner: it is served on this machine only. Remove NUBREL_HOST, or start without the sample world.",
      );
    return {
      files: {
        read: (path) => playout().read(path),
        list: (path) => playout().list(path),
        space: (mountpoint) => playout().space(mountpoint),
      },
      demo: { owner, progress: () => world?.progress ?? 0 },
      before: async (_store, database) => {
        if (!(await hasOwner(database))) await createOwner(database, owner.name, await hashPassword(owner.password));
        const state = await readWorldState(database, Date.now());
        files = new PlayoutFiles(new World(state.began, offsetSeconds), Date.now);
      },
    };
  },
  () => [`Sample world. Sign in as ${owner.name} with the password: ${owner.password}`],
  async (server, log) => {
    world = new DemoWorld(server, offsetSeconds, log);
    await world.start();
    return () => world?.stop();
  },
);
