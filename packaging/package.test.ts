import { execFile, execFileSync } from "node:child_process";
import { existsSync, lstatSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { promisify } from "node:util";
import { afterAll, beforeAll, describe, expect, test } from "vitest";

// The package in a Debian of its own, made by debootstrap: installed, served, upgraded with data, removed and purged by
// apt and dpkg themselves. As root; it takes some minutes, so `npm run test:package` runs it and `npm test` does not.
const run = promisify(execFile);
const suite = "trixie"; // the first whose nodejs is 20.19 or later
const mirror = "http://deb.debian.org/debian";
const work = mkdtempSync(join(tmpdir(), "nubrel-package-test-"));
const system = join(work, "system");
const own = JSON.parse(readFileSync("package.json", "utf8")).version as string;
const before = "0.0.9";
const deb = (version: string) => `nubrel_${version}_all.deb`;

/** Runs a command in the system, in namespaces of its own: nothing that it starts outlives it. */
async function within(command: string, timeoutMs = 300_000): Promise<string> {
  const { stdout, stderr } = await run(
    "unshare",
    ["--mount", "--pid", "--fork", "--kill-child", "chroot", system, "/bin/sh", "-c", `${mounts}\n${command}`],
    {
      env: { PATH: "/usr/sbin:/usr/bin:/sbin:/bin", DEBIAN_FRONTEND: "noninteractive", LC_ALL: "C.UTF-8" },
      timeout: timeoutMs,
      maxBuffer: 1e7,
    },
  );
  return `${stdout}${stderr}`;
}
const mounts = "mount -t proc proc /proc; mount -t tmpfs -o mode=1777 tmpfs /dev/shm 2>/dev/null || true";

/** As the unit starts it: by its account, with its settings. */
const asService = (script: string) =>
  `set -a; . /etc/nubrel/nubrel.env; NUBREL_DATA=/var/lib/nubrel; NUBREL_PORT=8994; set +a
setpriv --reuid=nubrel --regid=nubrel --clear-groups --no-new-privs node /usr/lib/nubrel/scripts/start.mjs >/tmp/log 2>&1 &
pid=$!
for i in $(seq 120); do node -e 'fetch("http://127.0.0.1:8994/api/health").then((r) => process.exit(r.ok ? 0 : 1), () => process.exit(1))' && break; sleep 0.5; done
${script}
kill -TERM $pid; wait $pid; echo "ended with $?"; cat /tmp/log`;

beforeAll(async () => {
  execFileSync("node", ["scripts/package.mjs", "--to", work], { stdio: "ignore" });
  // The version before: the same with another number, as there is none yet.
  const old = join(work, "old");
  execFileSync("dpkg-deb", ["-R", join(work, deb(own)), old]);
  for (const file of ["DEBIAN/control", "usr/lib/nubrel/package.json"]) {
    const text = readFileSync(join(old, file), "utf8");
    writeFileSync(join(old, file), text.replace(/^(Version: |\s*"version": ")[^"\n]+/m, `$1${before}`));
  }
  execFileSync("dpkg-deb", ["--root-owner-group", "-Zgzip", "-z1", "--build", old, join(work, deb(before))]);
  await run("debootstrap", ["--variant=minbase", suite, system, mirror], { maxBuffer: 1e7 });
  for (const version of [before, own]) execFileSync("cp", [join(work, deb(version)), join(system, "root")]);
}, 900_000);
afterAll(() => rmSync(work, { recursive: true, force: true }));

describe("the package", () => {
  test("lintian finds no error in it", async () => {
    const { stdout } = await run("lintian", ["--fail-on", "none", join(work, deb(own))], { maxBuffer: 1e7 });
    expect(stdout.split("\n").filter((line) => line.startsWith("E:"))).toEqual([]);
  }, 300_000);
  test.each(["nubrel.service", "nubrel-relay.service"])(
    "%s is a unit, and exposes less than three of ten",
    async (unit) => {
      await run("systemd-analyze", ["verify", "--man=no", `packaging/${unit}`]);
      const { stdout } = await run("systemd-analyze", ["security", "--offline=true", `packaging/${unit}`]);
      expect(Number(/exposure level for \S+: ([\d.]+)/.exec(stdout)?.[1])).toBeLessThan(3);
    },
  );
});

describe("in a Debian of its own", () => {
  test("it is installed with all that it needs", async () => {
    await within(`apt-get update && apt-get install -y --no-install-recommends man-db /root/${deb(before)}`, 600_000);
    expect(await within("nubrel --help && nubrel backup --help && man -w nubrel")).toMatch(
      /nubrel start.*nubrel backup FILE.*man1\/nubrel/s,
    );
    expect(await within("stat -c '%U %a' /var/lib/nubrel /etc/nubrel/nubrel.env")).toBe("nubrel 711\nroot 644\n");
    // A link into the system, which leads nowhere outside of it.
    const wanted = lstatSync(join(system, "etc/systemd/system/multi-user.target.wants/nubrel.service"));
    expect(wanted.isSymbolicLink()).toBe(true);
  }, 700_000);
  test("it serves, as its own account, and ends in order", async () => {
    const told = await within(
      asService(`node -e 'fetch("http://127.0.0.1:8994/").then((r) => r.text()).then((text) => console.log(text.includes("Nubrel") ? "page" : text))'
ps -eo user:20,args | grep -E 'start.js|postgres -D' | grep -v grep`),
    );
    expect(told).toMatch(/^page$/m);
    expect(told).toMatch(/^nubrel +.*dist\/server\/start\.js/m);
    expect(told).toMatch(/^nubrel +.*postgres -D/m);
    expect(told).toMatch(/ended with 0/);
  }, 200_000);
  test("upgraded, what was gathered is there", async () => {
    const samples = await within("nubrel export --counter system.memory.usage --format csv");
    expect(samples.split("\n").length).toBeGreaterThan(3);
    await within(`echo NUBREL_MACHINE=kept >> /etc/nubrel/nubrel.env; apt-get install -y /root/${deb(own)}`);
    expect(await within("dpkg-query -W nubrel")).toBe(`nubrel\t${own}\n`);
    expect(await within("grep MACHINE= /etc/nubrel/nubrel.env")).toContain("NUBREL_MACHINE=kept");
    const after = await within("nubrel export --counter system.memory.usage --format csv");
    expect(after.startsWith(samples.trimEnd())).toBe(true);
    expect(await within(asService("sleep 1"))).toMatch(/ended with 0/);
  }, 300_000);
  test("root's own commands leave everything to the account", async () => {
    await within("cd /root && nubrel backup /root/nubrel.backup");
    expect(await within("stat -c '%U %a' /root/nubrel.backup")).toBe("root 600\n");
    expect(await within("find /var/lib/nubrel ! -user nubrel | head")).toBe("");
  }, 200_000);
  test("removed, the data stays; purged, it is asked for, and kept where nobody answers", async () => {
    await within("apt-get remove -y nubrel");
    expect(existsSync(join(system, "var/lib/nubrel/postgres/PG_VERSION"))).toBe(true);
    await within("apt-get purge -y nubrel");
    expect(existsSync(join(system, "var/lib/nubrel/postgres/PG_VERSION"))).toBe(true);
    expect(existsSync(join(system, "usr/lib/nubrel"))).toBe(false);
    expect(existsSync(join(system, "etc/nubrel"))).toBe(false);
  }, 200_000);
  test("installed again it goes on with them; purged with a yes, nothing is left", async () => {
    await within(`apt-get install -y /root/${deb(own)}`);
    expect(
      (await within("nubrel export --counter system.memory.usage --format csv")).split("\n").length,
    ).toBeGreaterThan(3);
    await within("echo 'nubrel nubrel/remove-data boolean true' | debconf-set-selections; apt-get purge -y nubrel");
    expect(existsSync(join(system, "var/lib/nubrel"))).toBe(false);
    expect(await within("dpkg -l nubrel 2>&1 | grep ^.[ci] || echo none")).toContain("none");
  }, 300_000);
});
