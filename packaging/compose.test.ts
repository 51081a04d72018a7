import { execFile, execFileSync } from "node:child_process";
import { chmodSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { promisify } from "node:util";
import { afterAll, beforeAll, expect, test } from "vitest";
import { ask } from "./testing/ask.ts";
import { makeBaseTar } from "./testing/base-tar.ts";

// The compose file, run by a container engine of Debian's whose composer is called as it is with "-compose" behind it:
// NUBREL_TEST_ENGINE has its name, without which this is left out. No registry is asked: the two images that the file
// names are made here, that of the database of Debian's PostgreSQL with an entry that understands the same variables.
// As root; `NUBREL_TEST_ENGINE=... npm run test:package`.
const engineName = process.env["NUBREL_TEST_ENGINE"] ?? "";
const run = promisify(execFile);
const work = mkdtempSync(join(tmpdir(), "nubrel-compose-test-"));
const port = 7373;
const mostMs = 900_000;
const project = "nubrel-compose-test";
const environment = {
  ...process.env,
  CONTAINERS_CONF: join(work, "containers.conf"),
  NUBREL_DATABASE_PASSWORD: "well kept @ 5432/all?",
  NUBREL_NAMES: "watch.example",
};
const ownEngine = join(work, "engine");
const engine = (...words: string[]) => run(ownEngine, words, { env: environment, timeout: mostMs, maxBuffer: 1e8 });
const compose = (words: readonly string[], env: NodeJS.ProcessEnv = environment) =>
  run(
    `${engineName}-compose`,
    [`--${engineName}-path`, ownEngine, "--project-name", project, "--file", "packaging/compose.yaml", ...words],
    { env, timeout: mostMs, maxBuffer: 1e8 },
  );
const container = (service: string) => `${project}_${service}_1`;
const log = async () => (await engine("logs", container("nubrel"))).stdout;
const signIn = () => ask(port, "/api/session", { method: "POST", body: account });
const account = { name: "Ines", password: "kestrel on the quay" };

/** What the image of the database does with its variables. */
const enter = `#!/bin/sh
set -e
folder=/var/lib/postgresql/data/17
as() { setpriv --reuid=postgres --regid=postgres --init-groups "$@"; }
chown postgres: /var/lib/postgresql/data
if [ ! -s $folder/PG_VERSION ]; then
  printf %s "$POSTGRES_PASSWORD" > /tmp/password; chown postgres /tmp/password
  as initdb --pgdata=$folder --username="$POSTGRES_USER" --pwfile=/tmp/password --auth-host=scram-sha-256 --auth-local=trust
  echo "host all all all scram-sha-256" >> $folder/pg_hba.conf
  as pg_ctl --pgdata=$folder --wait -o "-c listen_addresses=" start
  as createdb --host=/var/run/postgresql --username="$POSTGRES_USER" "$POSTGRES_DB"
  as pg_ctl --pgdata=$folder --wait stop
fi
exec setpriv --reuid=postgres --regid=postgres --init-groups postgres -D $folder -c "listen_addresses=*"
`;
const databaseImage = `FROM localhost/debian-base
RUN apt-get update && DEBIAN_FRONTEND=noninteractive apt-get install -y --no-install-recommends postgresql-17
COPY enter /usr/local/bin/enter
RUN chmod 755 /usr/local/bin/enter
ENV PATH=/usr/lib/postgresql/17/bin:/usr/local/bin:/usr/sbin:/usr/bin:/sbin:/bin
VOLUME /var/lib/postgresql/data
ENTRYPOINT ["/usr/local/bin/enter"]
`;

beforeAll(async () => {
  if (engineName === "") return;
  const own = `--root ${work}/store --runroot ${work}/run --storage-driver vfs`;
  writeFileSync(ownEngine, `#!/bin/sh\nexec ${engineName} ${own} "$@"\n`);
  chmodSync(ownEngine, 0o755);
  // Small machines do not let limits be raised, and mixed control groups need the older runtime.
  writeFileSync(
    environment.CONTAINERS_CONF,
    '[containers]\ndefault_ulimits = ["nofile=1024:1024", "nproc=1024:1024"]\n[engine]\nruntime = "runc"\n[network]\nnetwork_backend = "netavark"\n',
  );
  writeFileSync(join(work, "enter"), enter);
  writeFileSync(join(work, "Databasefile"), databaseImage);
  execFileSync("node", ["scripts/package.mjs"], { stdio: "ignore" });
  await engine("import", await makeBaseTar(work), "localhost/debian-base");
  const build = ["build", "--network", "host", "--file"];
  await engine(...build, join(work, "Databasefile"), "--tag", "localhost/postgres:17", work);
  await engine(
    ...[...build, "packaging/Containerfile", "--build-arg", "BASE=localhost/debian-base"],
    ...["--tag", `localhost/${project}_nubrel`, "."],
  );
}, mostMs);
afterAll(async () => {
  if (engineName !== "") await compose(["down", "--volumes"]).catch(() => {});
  if (engineName !== "") await engine("system", "reset", "--force").catch(() => {});
  rmSync(work, { recursive: true, force: true });
}, 120_000);

test.runIf(engineName)("what is missing is said", async () => {
  const { NUBREL_NAMES: _, ...without } = environment;
  await expect(compose(["up", "--detach"], without)).rejects.toThrow("are the names by which this host is reached");
});

test.runIf(engineName)(
  "both are up, and the host is counted, not the container",
  async () => {
    await compose(["up", "--detach"]);
    await expect.poll(log, { timeout: 60_000 }).toContain("Set-up code: ");
    const code = /Set-up code: (\S+)/.exec(await log())?.[1];
    const { status, cookie } = await ask(port, "/api/setup", { method: "POST", body: { code, ...account } });
    expect(status).toBe(201);
    expect((await engine("exec", container("nubrel"), "nubrel", "health")).stdout).toContain("Nubrel works.");
    const hosts = [...readFileSync("/proc/1/net/dev", "utf8").matchAll(/^ *([^:\s]+):/gm)].map(([, name]) => name);
    const { body } = await ask(port, "/api/tags?tag=interface", { cookie });
    const seen = (body as { combinations: readonly { interface: string }[] }).combinations;
    expect(seen.length).toBeGreaterThan(0);
    for (const one of seen) expect(hosts).toContain(one.interface);
    const condition = (await ask(port, "/api/condition", { cookie })).body as { unseen: readonly string[] };
    expect(condition.unseen.join(" ")).not.toMatch(/NUBREL_(PROC|SYS|ROOT)/);
  },
  mostMs,
);

test.runIf(engineName)(
  "killed, it comes back by itself; taken down and up again, everything is there",
  async () => {
    const { stdout } = await engine("inspect", "--format", "{{.State.Pid}}", container("nubrel"));
    process.kill(Number(stdout), "SIGKILL");
    await expect.poll(async () => (await signIn().catch(() => undefined))?.status, { timeout: 60_000 }).toBe(200);
    await compose(["down"]);
    await expect(signIn()).rejects.toThrow("ECONNREFUSED");
    await compose(["up", "--detach"]);
    await expect.poll(async () => (await signIn().catch(() => undefined))?.status, { timeout: 60_000 }).toBe(200);
    const { cookie } = await signIn();
    const [host] = (await ask(port, "/api/machines", { cookie })).body as readonly { name: string; state: string }[];
    expect(host).toMatchObject({ name: "host", state: "reporting" });
  },
  mostMs,
);
