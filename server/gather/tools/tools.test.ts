import { execFileSync } from "node:child_process";
import { chmodSync, existsSync, mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterAll, beforeAll, describe, expect, onTestFinished, test } from "vitest";
import { readDomstats } from "../../../core/formats/virtual-machines/domstats.ts";
import type { Credentials } from "../../../core/sources/source.ts";
import { hasIpmi, startIpmiController } from "../../testing/ipmi-controller.ts";
import { openDevice } from "../open-device.ts";
import { hasUpsDaemon, startUpsDaemon } from "../../testing/ups-daemon.ts";
import { freeUdpPort } from "../../testing/snmp-agent.ts";
import { MachineTools } from "../this-machine/machine-tools.ts";
import { IpmiGatherer, ipmiError } from "./ipmi-gatherer.ts";
import { runTool } from "./run-tool.ts";
import { UpsGatherer, upsError } from "./ups-gatherer.ts";

const basic = (user: string, password: string): Credentials => ({ kind: "basic", user, password });

describe.skipIf(!hasIpmi)("a management controller (Debian's simulator, through ipmitool)", () => {
  let controller: Awaited<ReturnType<typeof startIpmiController>>;
  beforeAll(async () => {
    controller = await startIpmiController();
  });
  afterAll(() => controller.stop());
  const ask = (port: number, credentials: Credentials) =>
    new IpmiGatherer({ kind: "ipmi", host: "127.0.0.1", port, timeoutMs: 3000 }, credentials).gather();

  test("its sensors come with their verdicts; it refuses DCMI, and is asked for it once", async () => {
    const { readings, raw } = await ask(controller.port, basic("ines", "kestrel"));
    expect(readings).toEqual([
      { counter: "hw.temperature", tags: { sensor: "CPU Temp" }, value: 52 },
      { counter: "hw.healthy", tags: { part: "CPU Temp" }, value: 1 },
    ]);
    expect(raw).toContain("CPU Temp,52,degrees C,ok");
  });
  test("a wrong password and nobody at all sound alike to ipmitool: who answers at all tells them apart", async () => {
    for (const wrong of [basic("ines", "wrong"), basic("nobody", "kestrel")]) {
      const failure = await ask(controller.port, wrong).catch((error) => error);
      expect([failure.kind, failure.message]).toEqual(["wrong credentials", expect.stringContaining("password")]);
    }
    const nobody = await ask(await freeUdpPort(), basic("ines", "kestrel")).catch((error) => error);
    expect([nobody.kind, nobody.message]).toEqual(["no answer", expect.stringContaining("Nothing there answers IPMI")]);
  });
});

describe.skipIf(!hasUpsDaemon)("a power supply (Debian's daemon with its dummy driver, through upsc)", () => {
  test("what it draws is its input, once; a driver that has ended is told as such", async () => {
    const daemon = await startUpsDaemon({
      "ups.status": "OL",
      "ups.load": 46,
      "ups.realpower": 333,
      "input.realpower": 424,
      "battery.charge": 98,
      "input.voltage": 231.4,
    });
    onTestFinished(() => daemon.stop());
    const of = { kind: "ups", host: "127.0.0.1", port: daemon.port, ups: "rack", timeoutMs: 5000 } as const;
    const gatherer = openDevice(of, { kind: "system" }, { kind: "none" });
    const { readings } = await gatherer.gather(Date.now());
    const told = (counter: string) =>
      readings.filter((one) => one.counter === counter).map(({ tags, value }) => [tags["sensor"], value]);
    expect(told("hw.host.power")).toEqual([["input", 424]]);
    expect(told("hw.power")).toEqual([
      ["output", 333],
      ["input", 424],
    ]);
    expect(told("ups.load")).toEqual([["output", 0.46]]);
    expect(told("ups.on_battery")).toEqual([[undefined, 0]]);
    await expect(
      openDevice({ ...of, ups: "attic" }, { kind: "system" }, { kind: "none" }).gather(Date.now()),
    ).rejects.toMatchObject({ kind: "wrong path" });
    await daemon.endDriver();
    await expect
      .poll(
        () =>
          gatherer.gather(Date.now()).then(
            () => "answered",
            ({ kind }) => kind,
          ),
        { timeout: 25_000, interval: 500 },
      )
      .toBe("refused");
    await daemon.stop();
    await expect(gatherer.gather(Date.now())).rejects.toMatchObject({ kind: "nothing listens" });
  }, 40_000);
});

test.each([
  ["Error: Unable to establish IPMI v2 / RMCP+ session", "no answer"],
  ["> RAKP 2 HMAC is invalid\nError: Unable to establish IPMI v2 / RMCP+ session", "wrong credentials"],
  ["Address lookup for mast failed\nError: Unable to establish IPMI v2 / RMCP+ session", "name unknown"],
  ["Error in open session response message : insufficient privilege\n", "not allowed"],
  ["Segmentation fault", "failed"],
] as const)("ipmitool says %j: %s", (words, kind) => {
  expect(ipmiError(words, "hive:623").kind).toBe(kind);
});
test.each([
  ["Error: Unknown UPS", "wrong path"],
  ["Error: Driver not connected", "refused"],
  ["Error: Data stale", "refused"],
  ["Error: Connection failure: Connection refused", "nothing listens"],
  ["Error: Access denied", "not allowed"],
] as const)("upsc says %j: %s", (words, kind) => {
  expect(
    upsError(`Init SSL without certificate database\n${words}\n`, { ups: "ups", host: "gate", port: 3493 }).kind,
  ).toBe(kind);
});

describe("programs of the system", () => {
  let folder: string;
  let path: string | undefined;
  beforeAll(() => {
    folder = mkdtempSync(join(tmpdir(), "nubrel-tools-"));
    path = process.env["PATH"];
    process.env["PATH"] = `${folder}:${path}`;
  });
  afterAll(() => {
    process.env["PATH"] = path;
    rmSync(folder, { recursive: true, force: true });
  });
  const program = (name: string, script: string) => {
    writeFileSync(join(folder, name), `#!/bin/sh\n${script}\n`);
    chmodSync(join(folder, name), 0o755);
  };

  test("one that is missing says what to install; one that hangs is ended", async () => {
    await expect(
      runTool("no-such-tool", [], { timeoutMs: 1000, debianPackage: "no-such-package" }),
    ).rejects.toMatchObject({ kind: "tool missing", remedy: "Install it: apt install no-such-package" });
    program("hangs", "exec sleep 30");
    const began = Date.now();
    await expect(runTool("hangs", [], { timeoutMs: 200 })).rejects.toMatchObject({ kind: "no answer" });
    expect(Date.now() - began).toBeLessThan(5000);
  });
  test("what is asked no more is ended at once, however long it would wait", async () => {
    program("upsc", "exec sleep 30");
    const gatherer = new UpsGatherer({ kind: "ups", host: "gate", port: 3493, ups: "rack", timeoutMs: 60_000 });
    const asked = gatherer.gather().catch((error) => error.message);
    const began = Date.now();
    await gatherer.close();
    expect(await asked).toContain("asked no more");
    expect(Date.now() - began).toBeLessThan(5000);
  });
  test("upsc: the supply's name and place reach it, its answer is read", async () => {
    program(
      "upsc",
      'case "$1" in rack@gate:3493) echo "ups.status: OL"; echo "battery.charge: 98";; *) echo "Error: Unknown UPS" >&2; exit 1;; esac',
    );
    const of = (ups: string) =>
      new UpsGatherer({ kind: "ups", host: "gate", port: 3493, ups, timeoutMs: 3000 }).gather();
    expect((await of("rack")).readings).toEqual([
      { counter: "hw.battery.charge", tags: {}, value: 0.98 },
      { counter: "ups.on_battery", tags: {}, value: 0 },
      { counter: "hw.battery.healthy", tags: {}, value: 1 },
    ]);
    await expect(of("other")).rejects.toMatchObject({ kind: "wrong path" });
  });
});

test.skipIf(!existsSync("/usr/bin/virsh"))("the virtualisation library's own test driver: its one guest runs", () => {
  const found: string[] = [];
  readDomstats(
    execFileSync("virsh", ["-c", "test:///default", "domstats", "--raw"], { encoding: "utf8" }),
    (counter, { guest }, value) => found.push(`${counter} ${guest} ${value}`),
  );
  expect(found).toEqual(["guest.state.running test 1"]);
});

test("programs beside the gathering never hold it up: what they said comes once, one that hangs is not asked again", async () => {
  let asked = 0;
  let answer: (value: { code: number; out: string; err: string }) => void = () => {};
  const tools = new MachineTools((name) => {
    if (name !== "virsh") return Promise.resolve(undefined);
    asked++;
    return new Promise((resolve) => {
      answer = resolve;
    });
  });
  expect(tools.take(0, [])).toEqual([]);
  expect(tools.take(60_000, [])).toEqual([]);
  expect(asked).toBe(1);
  answer({ code: 0, out: "Domain: 'attic'\n  state.state=5\n", err: "" });
  await new Promise((resolve) => setImmediate(resolve));
  expect(tools.take(60_001, [])).toEqual([{ counter: "guest.state.running", tags: { guest: "attic" }, value: 0 }]);
  expect(asked).toBe(2);
  expect(tools.take(60_002, [])).toEqual([]);
});
