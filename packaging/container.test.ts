import { type ChildProcess, execFile, execFileSync, spawn } from "node:child_process";
import { chmodSync, copyFileSync, mkdirSync, mkdtempSync, readFileSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { promisify } from "node:util";
import { afterAll, beforeAll, expect, test } from "vitest";
import { startCluster } from "../scripts/cluster.mjs";
import { ask } from "./testing/ask.ts";
import { makeBaseTar } from "./testing/base-tar.ts";

// The container's recipe, built without root by a builder of Debian's over a Debian of its own, and run without root
// and without rights, with a PostgreSQL beside it. As root, for the account that builds; `npm run test:package`.
const run = promisify(execFile);
const account = "nubrel-builds";
const work = mkdtempSync(join(tmpdir(), "nubrel-container-test-"));
const port = 8993;
const mostMs = 900_000;

/** Runs a shell command as the account that has no rights. */
const without = (command: string, timeout = 600_000) =>
  run("runuser", ["--login", account, "--shell", "/bin/sh", "--command", `${environment}\n${command}`], {
    timeout,
    maxBuffer: 1e7,
  });
const environment = `export XDG_RUNTIME_DIR=${work}/run STORAGE_DRIVER=vfs BUILDAH_ISOLATION=chroot; cd ${work}`;

let cluster: Awaited<ReturnType<typeof startCluster>> | undefined;
let data = "";
let running: ChildProcess | undefined;
let said = "";
beforeAll(async () => {
  execFileSync("useradd", ["--create-home", "--shell", "/bin/sh", account]);
  for (const name of ["run", "dist/package", "packaging", "data"]) mkdirSync(join(work, name), { recursive: true });
  execFileSync("node", ["scripts/package.mjs", "--to", join(work, "dist/package")], { stdio: "ignore" });
  copyFileSync("packaging/Containerfile", join(work, "packaging/Containerfile"));
  await makeBaseTar(work);
  execFileSync("chown", ["--recursive", `${account}:`, work]);
  chmodSync(work, 0o711);
  data = mkdtempSync(join(tmpdir(), "nubrel-container-data-"));
  chmodSync(data, 0o711);
  cluster = await startCluster(data);
}, mostMs);
afterAll(async () => {
  running?.kill("SIGTERM");
  await without("buildah rm --all; buildah rmi --all --force").catch(() => {});
  await cluster?.stop("immediate");
  execFileSync("userdel", ["--remove", "--force", account], { stdio: "ignore" });
  for (const folder of [work, data]) if (folder !== "") rmSync(folder, { recursive: true, force: true });
}, 120_000);

test(
  "it is built without root",
  async () => {
    await without("buildah from --name base scratch && buildah add base base.tar / && buildah commit base debian-base");
    await without(
      "buildah build --network host --build-arg BASE=localhost/debian-base --file packaging/Containerfile --tag nubrel .",
      mostMs,
    );
    const { stdout } = await without("buildah inspect --type image nubrel");
    const { config } = JSON.parse(stdout).OCIv1;
    expect(config).toMatchObject({ User: "10001:10001", StopSignal: "SIGTERM", Volumes: { "/var/lib/nubrel": {} } });
    expect(readFileSync("packaging/Containerfile", "utf8")).toContain("HEALTHCHECK --interval=30s");
  },
  mostMs,
);

test(
  "it serves without root and without rights, by a certificate of its own, and is healthy",
  async () => {
    const database = (cluster as { url: string }).url;
    const inside = `node /usr/lib/nubrel/scripts/start.mjs & pid=$!
for i in $(seq 120); do nubrel health >/tmp/health 2>&1 && break; sleep 0.5; done
cat /tmp/health; id -u; touch /usr/lib/nubrel/x 2>&1 | head -1
wait $pid`;
    running = spawn("runuser", [
      ...["--login", account, "--shell", "/bin/sh", "--command"],
      `${environment}
buildah from --name running nubrel >/dev/null
exec buildah run --isolation oci --runtime runc --network host --user 10001:10001 --cap-drop all \\
  --volume /proc:/host/proc:ro --volume /sys:/host/sys:ro \\
  --env NUBREL_DATABASE_URL='${database}' --env NUBREL_PORT=${port} --env NUBREL_NAMES=watch.example \\
  --env NUBREL_MACHINE=host --env NUBREL_PROC=/host/proc --env NUBREL_SYS=/host/sys running -- sh -c '${inside}'`,
    ]);
    for (const stream of [running.stdout, running.stderr]) stream?.on("data", (text) => (said += text));
    await expect.poll(() => said, { timeout: 120_000 }).toContain("Nubrel works.");
    await expect.poll(() => said, { timeout: 10_000 }).toContain("/usr/lib/nubrel/x"); // what comes after is told after it
    expect(said).toMatch(/^10001$/m);
    expect(said).toMatch(/cannot touch '\/usr\/lib\/nubrel\/x': Permission denied/);
    expect(said).toContain(`Other machines reach it at https://watch.example:${port}`);
    expect((await ask(port, "/api/health")).status).toBe(200);
  },
  mostMs,
);

test("it counts the host's network, and says what it does not see", async () => {
  const code = /Set-up code: (\S+)/.exec(said)?.[1];
  const { status, cookie } = await ask(port, "/api/setup", {
    method: "POST",
    body: { code, name: "Ines", password: "kestrel on the quay" },
  });
  expect(status).toBe(201);
  const condition = (await ask(port, "/api/condition", { cookie })).body as { unseen: readonly string[] };
  expect(condition.unseen.join(" ")).toContain("NUBREL_ROOT=/host/root");
  expect(condition.unseen.join(" ")).not.toContain("NUBREL_PROC");
  const host = [...readFileSync("/proc/1/net/dev", "utf8").matchAll(/^ *([^:\s]+):/gm)].map(
    ([, name]) => name as string,
  );
  const { body } = await ask(port, "/api/tags?tag=interface", { cookie });
  const seen = (body as { combinations: readonly Record<string, string>[] }).combinations.flatMap((tags) =>
    Object.values(tags),
  );
  expect(seen.length).toBeGreaterThan(0);
  for (const name of seen) expect(host).toContain(name);
}, 60_000);

test("what it wrote stands in its volume and in /tmp alone", async () => {
  const { stdout } = await without(
    'buildah unshare sh -c \'root=$(buildah mount running); find $root -xdev -newer $root/usr/lib/nubrel -type f -user 10001 -not -path "$root/var/lib/nubrel/*" -not -path "$root/tmp/*"\'',
  );
  expect(stdout).toBe("");
}, 120_000);
