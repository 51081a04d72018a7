import { createSocket, type Socket } from "node:dgram";
import { readFileSync } from "node:fs";
import snmp from "net-snmp";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import type { PickedNumber } from "../../../core/formats/snmp/picked-numbers.ts";
import { snmpModuleNames } from "../../../core/formats/snmp/snmp-modules.ts";
import { compareOids, isBelow, type VarBind } from "../../../core/formats/snmp/var-bind.ts";
import type { SnmpCredentials, SnmpDevice } from "../../../core/sources/kinds/snmp.ts";
import { freeUdpPort, hasSnmpd, type RealAgent, startSnmpd } from "../../testing/snmp-agent.ts";
import type { Gathered } from "../device-gatherer.ts";
import type { PullError } from "../../transport/pull-error.ts";
import { SnmpGatherer } from "./snmp-gatherer.ts";
import { walkColumns } from "./snmp-walk.ts";
import { SnmpSession, type SnmpWire } from "./snmp-wire.ts";
import { messageLength } from "./tcp-messages.ts";
import { walkDevice } from "./walk-device.ts";

const community = (name = "quay"): SnmpCredentials => ({ kind: "community", community: name });
const user = (more: Partial<Extract<SnmpCredentials, { kind: "snmp user" }>> = {}): SnmpCredentials => ({
  kind: "snmp user",
  user: "ines",
  level: "sealed",
  authProtocol: "sha256",
  authKey: "kestrelquay",
  privProtocol: "aes",
  privKey: "sealedquay",
  ...more,
});
const device = (port: number, more: Partial<SnmpDevice> = {}): SnmpDevice => ({
  kind: "snmp",
  host: "127.0.0.1",
  port,
  version: "2c",
  timeoutMs: 800,
  modules: snmpModuleNames,
  numbers: [],
  ...more,
});

async function gather(of: SnmpDevice, credentials: SnmpCredentials): Promise<Gathered> {
  const gatherer = new SnmpGatherer(new SnmpSession(of, credentials), of);
  try {
    return await gatherer.gather(Date.now());
  } finally {
    await gatherer.close();
  }
}
const failure = (of: SnmpDevice, credentials: SnmpCredentials): Promise<PullError> =>
  gather(of, credentials).then(
    () => Promise.reject(new Error("it answered")),
    (error) => error,
  );
const readingOf = ({ readings }: Gathered, counter: string, tags: object = {}) =>
  readings.find(
    (one) => one.counter === counter && Object.entries(tags).every(([tag, value]) => one.tags[tag] === value),
  )?.value;

describe.skipIf(!hasSnmpd)("a real agent (Debian's snmpd)", () => {
  let agent: RealAgent;
  beforeAll(async () => {
    agent = await startSnmpd();
  });
  afterAll(() => agent.stop());

  describe.each([
    ["1", community()],
    ["2c", community()],
    ["3", user()],
  ] as const)("version %s", (version, credentials) => {
    test("memory, filesystems and uptime are what its own client and this machine's kernel say", async () => {
      const gathered = await gather(device(agent.port, { version }), credentials);
      const total = Number(/MemTotal:\s+(\d+)/.exec(readFileSync("/proc/meminfo", "utf8"))?.[1]) * 1024;
      expect(readingOf(gathered, "system.memory.limit")).toBe(total);
      const of = (state: string) => readingOf(gathered, "system.memory.usage", { state }) ?? 0;
      expect(of("used") + of("shared") + of("cached") + of("buffers") + of("free")).toBe(total);
      const available = Number(/MemAvailable:\s+(\d+)/.exec(readFileSync("/proc/meminfo", "utf8"))?.[1]) * 1024;
      expect(Math.abs(of("used") + of("shared") - (total - available)) / total).toBeLessThan(0.02);
      const root = agent
        .walk("1.3.6.1.2.1.25.2.3.1.3")
        .find((line) => line.endsWith('"/"'))
        ?.split(" ")[0]
        ?.split(".")
        .at(-1);
      const [unit, size] = [4, 5].map((column) => Number(agent.get(`1.3.6.1.2.1.25.2.3.1.${column}.${root}`)));
      expect(readingOf(gathered, "system.filesystem.limit", { mountpoint: "/" })).toBe(
        (unit as number) * ((size as number) < 0 ? (size as number) + 2 ** 32 : (size as number)),
      );
      expect(readingOf(gathered, "system.uptime")).toBeCloseTo(
        Number(readFileSync("/proc/uptime", "utf8").split(" ")[0]),
        -1,
      );
      expect(gathered.readings.filter(({ counter }) => counter === "system.cpu.utilization").length).toBe(
        agent.walk("1.3.6.1.2.1.25.3.3.1.2").length,
      );
    });
    test("the text as received has each variable as its number and type", async () => {
      const { raw } = await gather(device(agent.port, { version, modules: ["system"] }), credentials);
      expect(raw).toContain("1.3.6.1.2.1.1.5.0 = text: kestrel\n");
      expect(raw).toMatch(/1\.3\.6\.1\.2\.1\.1\.3\.0 = TimeTicks: \d+\n/);
    });
  });

  test.each(["1", "2c"] as const)(
    "asked again and again by version %s, it gives the same series",
    async (version) => {
      const of = device(agent.port, { version });
      const gatherer = new SnmpGatherer(new SnmpSession(of, community()), of);
      const names = async () =>
        (await gatherer.gather(Date.now())).readings
          .map(({ counter, tags }) => `${counter} ${JSON.stringify(tags)}`)
          .filter((name) => !name.includes("cpu.utilization")); // an agent works loads out after its first minute
      const first = await names();
      expect(first.length).toBeGreaterThan(8);
      for (let i = 0; i < 3; i++) expect(await names()).toEqual(first);
      await gatherer.close();
    },
    60_000,
  );

  test("interfaces: octets of each lie between what the kernel says before and after; the loopback is left", async () => {
    const octets = () =>
      new Map(
        readFileSync("/proc/net/dev", "utf8")
          .split("\n")
          .slice(2)
          .filter((line) => line.includes(":"))
          .map((line) => [line.split(":")[0]?.trim() as string, Number(line.split(":")[1]?.trim().split(/\s+/)[0])]),
      );
    const before = octets();
    const gathered = await gather(device(agent.port), community());
    const after = octets();
    expect(readingOf(gathered, "system.network.io", { interface: "lo" })).toBeUndefined();
    for (const [name, low] of before) {
      if (name === "lo") continue;
      const value = readingOf(gathered, "system.network.io", { interface: name, direction: "receive" });
      if (value === undefined) continue; // interfaces that came after the agent's last look
      expect(value).toBeLessThanOrEqual(after.get(name) as number);
      expect(value).toBeGreaterThanOrEqual(low - 50_000_000); // the agent keeps counts for some seconds
    }
  });

  test.each(["1", "2c"] as const)(
    "numbers that are picked by version %s: one variable, or a column; the type decides, a share stays a level",
    async (version) => {
      const numbers: PickedNumber[] = [
        {
          oid: "1.3.6.1.2.1.1.3.0",
          counter: "agent.uptime",
          tags: { of: "agent" },
          kind: "by type",
          factor: 1,
          unit: "s",
        },
        { oid: "1.3.6.1.2.1.11.1.0", counter: "snmp.in", tags: {}, kind: "by type", factor: 1, unit: "{packet}" },
        { oid: "1.3.6.1.2.1.25.2.3.1.4.1", counter: "unit", tags: {}, kind: "by type", factor: 1, unit: "By" },
        { oid: "1.3.6.1.2.1.25.3.3.1.2", counter: "load", tags: {}, kind: "by type", factor: 0.01, unit: "1" },
        { oid: "1.3.6.1.4.1.99999.1.0", counter: "missing", tags: {}, kind: "by type", factor: 1, unit: "1" },
      ];
      const { readings } = await gather(device(agent.port, { version, modules: [], numbers }), community());
      expect(readings.find(({ counter }) => counter === "agent.uptime")).toMatchObject({
        kind: "level",
        unit: "s",
        tags: { of: "agent" },
      });
      expect(readings.find(({ counter }) => counter === "snmp.in")).toMatchObject({ kind: "total" });
      expect(
        readings.filter(({ counter }) => counter === "load").map(({ kind, tags }) => [kind, typeof tags["index"]]),
      ).toEqual(agent.walk("1.3.6.1.2.1.25.3.3.1.2").map(() => ["level", "string"]));
      expect(readings.find(({ counter }) => counter === "unit")).toMatchObject({
        value: Number(agent.get("1.3.6.1.2.1.25.2.3.1.4.1")),
        tags: {},
      }); // one row of a table
      expect(readings.some(({ counter }) => counter === "missing")).toBe(false);
    },
  );

  test("a walk tells what the device has in words, and what nobody has described by its number", async () => {
    const wire = new SnmpSession(device(agent.port), community());
    const walk = await walkDevice(wire, Date.now());
    wire.close();
    expect(walk.name).toBe("kestrel");
    expect(walk.cut).toBeNull();
    expect(walk.groups.map(({ module }) => module)).toEqual(expect.arrayContaining(["system", "host resources"]));
    expect(walk.unknown.find(({ oid }) => oid === "1.3.6.1.2.1.11.1.0")).toMatchObject({
      type: "Counter32",
      kind: "total",
    });
    const own = agent.walk("1.3.6.1").length; // it counts what it starts itself, too
    expect(Math.abs(walk.variables - own) / own).toBeLessThan(0.02);
  });

  test.each([
    ["an unknown user", device, user({ user: "nobody" }), "unknown user", "unknownUserName"],
    ["a wrong authentication key", device, user({ authKey: "wrongwrong" }), "wrong credentials", "wrongDigest"],
    ["another method of signing", device, user({ authProtocol: "sha" }), "wrong credentials", "wrongDigest"],
    ["too low a level", device, user({ level: "signed" }), "wrong level", "authorizationError"],
    [
      "a level that the user does not have",
      device,
      user({ user: "guest", authProtocol: "sha" }),
      "wrong level",
      "unsupportedSecurityLevel",
    ],
    ["a wrong privacy key", device, user({ privKey: "wrongwrong" }), "no answer", "privacy key"],
  ] as const)("%s is told by name", async (_name, make, credentials, kind, words) => {
    const error = await failure(make(agent.port, { version: "3" }), credentials);
    expect(error.kind).toBe(kind);
    expect(error.message).toContain(words);
  });
  test("a wrong community is silence: all three reasons are said, and how to tell", async () => {
    const error = await failure(device(agent.port), community("wrong"));
    expect(error.kind).toBe("no answer");
    for (const word of ["SNMP is off", "address is not allowed", "community is wrong"])
      expect(error.message).toContain(word);
    expect(error.remedy).toContain("How to tell");
  });
  test("a view that is narrower gives what it has, and what was picked beyond it is told", async () => {
    const { readings } = await gather(device(agent.port), community("narrow"));
    expect(readings.map(({ counter }) => counter)).toEqual(["system.uptime"]);
    const picked: PickedNumber = {
      oid: "1.3.6.1.2.1.11.1.0",
      counter: "snmp.in",
      tags: {},
      kind: "by type",
      factor: 1,
      unit: "1",
    };
    const { leftOut } = await gather(
      device(agent.port, { modules: ["system", "interfaces"], numbers: [picked] }),
      community("narrow"),
    );
    expect([...(leftOut ?? [])]).toEqual([
      [expect.stringContaining("its view hides it: snmp.in"), 1],
      [expect.stringMatching(/its view hides it: .*nterfaces/), 1],
    ]);
  });
  test("a table of programs' texts: numbers and states where a person says so, left out and told where not", async () => {
    // NET-SNMP-EXTEND-MIB::nsExtendOutput1Line, by the name's length and letters
    const line = "1.3.6.1.4.1.8072.1.3.2.3.1.1";
    const of = (name: string) => `${line}.${name.length}.${[...name].map((letter) => letter.charCodeAt(0)).join(".")}`;
    const one = { tags: {}, kind: "by type", factor: 1, unit: "1" } as const;
    const { readings, leftOut } = await gather(
      device(agent.port, {
        modules: [],
        numbers: [
          {
            ...one,
            oid: of("lamp"),
            counter: "lamp",
            text: { as: "state", values: { "lamp is on": 1, "lamp is off": 0 } },
          },
          { ...one, oid: of("heat"), counter: "heat", unit: "Cel", text: { as: "number" } },
          { ...one, oid: line, counter: "lines" },
        ],
      }),
      community(),
    );
    expect(readings.map(({ counter, value, kind }) => [counter, value, kind])).toEqual([
      ["lamp", 1, "state"],
      ["heat", 21.5, "level"],
    ]);
    expect([...(leftOut ?? [])]).toEqual([[`a text, not a number: lines (${line})`, 2]]);
  });

  test.each(["1", "2c", "3"] as const)("over TCP, by version %s: the same as over UDP", async (version) => {
    const credentials = version === "3" ? user() : community();
    const names = async (transport: "udp" | "tcp") =>
      (await gather(device(agent.port, { version, transport }), credentials)).readings
        .map(({ counter, tags }) => `${counter} ${JSON.stringify(tags)}`)
        .filter((name) => !name.includes("cpu.utilization"));
    const overTcp = await names("tcp");
    expect(overTcp.length).toBeGreaterThan(8);
    expect(overTcp).toEqual(await names("udp"));
  });
  test("nobody who listens over TCP is told at once", async () => {
    const error = await failure(device(await freeUdpPort(), { transport: "tcp", timeoutMs: 20_000 }), community());
    expect([error.kind, error.message]).toEqual(["refused", expect.stringContaining("Nobody listens")]);
  });
  test("a source set to version 3 never speaks 2c, and the other way round", async () => {
    const seen: number[] = [];
    const port = await freeUdpPort();
    const socket = createSocket("udp4").bind(port, "127.0.0.1");
    socket.on("message", (bytes) => seen.push(bytes.length));
    const error = await failure(device(port, { version: "3", timeoutMs: 200 }), community());
    expect([error.kind, error.message]).toEqual(["wrong credentials", expect.stringContaining("never sent instead")]);
    expect((await failure(device(port, { version: "2c", timeoutMs: 200 }), user())).kind).toBe("wrong credentials");
    expect(seen).toEqual([]);
    socket.close();
  });
  test("sealed by DES, which this Node.js may lack", async () => {
    const { readings } = await gather(
      device(agent.port, { version: "3", modules: ["system"] }),
      user({ user: "old", authProtocol: "sha", privProtocol: "des" }),
    );
    expect(readings.map(({ counter }) => counter)).toEqual(["system.uptime"]);
  });
  test.each(["nothing", "starts", "everything"] as const)(
    "an agent that was restarted and forgot %s is found again at once",
    async (forgets) => {
      await agent.restart("nothing"); // it has counted more starts than it will after forgetting them
      expect(Number(agent.get("1.3.6.1.6.3.10.2.1.2.0"))).toBeGreaterThan(1);
      const of = device(agent.port, { version: "3", modules: ["system"], timeoutMs: 2000 });
      const gatherer = new SnmpGatherer(new SnmpSession(of, user()), of);
      expect((await gatherer.gather(Date.now())).readings).toHaveLength(1);
      await agent.restart(forgets);
      const began = performance.now();
      expect((await gatherer.gather(Date.now())).readings).toHaveLength(1);
      expect(performance.now() - began).toBeLessThan(1000);
      await gatherer.close();
    },
  );
});

describe("devices that misbehave", () => {
  const sockets: Socket[] = [];
  afterAll(() => {
    for (const socket of sockets) socket.close();
  });
  /** A device that answers each request as told. */
  async function answering(answer: (request: Buffer) => Buffer | undefined): Promise<number> {
    const socket = createSocket("udp4");
    sockets.push(socket);
    socket.on("message", (request, from) => {
      const text = answer(request);
      if (text) socket.send(text, from.port, from.address);
    });
    return await new Promise((resolve) => socket.bind(0, "127.0.0.1", () => resolve(socket.address().port)));
  }

  test("nothing there, and a name that is unknown", async () => {
    expect((await failure(device(await freeUdpPort(), { timeoutMs: 300 }), community())).kind).toBe("no answer");
    expect((await failure(device(161, { host: "no-such-host.invalid", timeoutMs: 2000 }), community())).kind).toMatch(
      /name unknown|no answer/,
    );
  });
  test("what is no SNMP is as if nothing came", async () => {
    const port = await answering(() => Buffer.from("HTTP/1.1 400 Bad Request\r\n\r\n"));
    expect((await failure(device(port, { timeoutMs: 300 }), community())).kind).toBe("no answer");
  });
  test("an answer cut at any byte never crashes and never gives a value", async () => {
    let length = 0;
    const whole = (request: Buffer) => {
      const bytes = Buffer.from(request);
      const at = bytes.indexOf(0xa5) >= 0 ? bytes.indexOf(0xa5) : bytes.indexOf(0xa1);
      if (at >= 0) bytes[at] = 0xa2; // our own request, called a response
      return bytes.subarray(0, length);
    };
    const port = await answering(whole);
    for (length = 1; length < 40; length += 3)
      expect((await failure(device(port, { timeoutMs: 60, modules: ["system"] }), community())).kind).toMatch(
        /no answer|not the format/,
      );
  });

  const wireOf = (next: SnmpWire["next"]): SnmpWire => ({ next, get: async () => [], close() {} });
  const limits = { variables: 100, untilMs: Date.now() + 60_000 };
  const bind = (oid: string, value: number): VarBind => ({ oid, type: snmp.ObjectType.Gauge, value });
  test("a walk whose numbers do not grow is ended, and says after which", async () => {
    const wire = wireOf(async ([oid]) => [[bind(oid === "1.3.6.1.2.1.2" ? "1.3.6.1.2.1.2.5" : "1.3.6.1.2.1.2.4", 1)]]);
    await expect(walkColumns(wire, ["1.3.6.1.2.1.2"], limits, () => {})).rejects.toMatchObject({
      kind: "endless",
      message: expect.stringContaining("after 1.3.6.1.2.1.2.5 it gives 1.3.6.1.2.1.2.4"),
    });
  });
  test("a walk that never ends is ended", async () => {
    let n = 0;
    await expect(
      walkColumns(
        wireOf(async () => [[bind(`1.3.6.1.2.1.2.${++n}`, 1)]]),
        ["1.3.6.1.2.1.2"],
        limits,
        () => {},
      ),
    ).rejects.toMatchObject({ kind: "endless" });
  });
  test("a walk that stops at 10,000 says what it has not seen, and goes on behind it; what is understood is found beyond all the same", async () => {
    const all = [
      ...Array.from({ length: 10_040 }, (_, i) => bind(`1.3.6.1.2.1.6.13.1.${i + 1}`, i)),
      bind("1.3.6.1.2.1.25.3.3.1.2.1", 42),
      bind("1.3.6.1.4.1.99999.1", 7),
    ];
    const next: SnmpWire["next"] = async (oids, repetitions) =>
      oids.map((oid) => {
        const from = all.findIndex((one) => compareOids(one.oid, oid) > 0);
        return from < 0
          ? [{ oid, type: snmp.ObjectType.EndOfMibView, value: null }]
          : all.slice(from, from + repetitions);
      });
    const first = await walkDevice(wireOf(next), Date.now());
    expect(first.variables).toBeLessThan(10_100);
    expect(first.cut?.words).toMatch(/more than 10,000 variables.*were not looked at/);
    expect(first.groups.flatMap(({ readings }) => readings.map(({ counter, value }) => [counter, value]))).toEqual([
      ["system.cpu.utilization", 0.42],
    ]);
    const on = await walkDevice(wireOf(next), Date.now(), first.cut?.after);
    expect(on.cut).toBeNull();
    expect(first.variables + on.variables).toBe(all.length);
    expect(on.unknown.find(({ oid }) => oid === "1.3.6.1.4.1.99999.1")).toMatchObject({ value: 7 });
  });
  test.each([
    ["30 05 0201", undefined],
    ["30 05 0201000400", 7],
    ["30", undefined],
    ["3082 0102", 0x102 + 4],
    ["3084 7fffffff", 0],
    ["3080", 0],
    ["1603 01", 0],
  ])("a message that begins with %s: its length is %s", (hex, length) => {
    const bytes = Buffer.from(hex.replaceAll(" ", ""), "hex");
    expect(messageLength(bytes)).toBe(length ?? (bytes.length < 2 ? undefined : 7));
  });
  test("agents that answer fewer rows than asked for, or one column short, are walked to the end", async () => {
    const all = [1, 2, 3, 4, 5].flatMap((row) => [`1.3.1.${row}`, `1.3.2.${row}`]).concat("1.3.3.1");
    const next: SnmpWire["next"] = async (oids) =>
      oids.map((oid, i) => {
        if (i > 0 && !oids[0]?.endsWith("3")) return [];
        const column = oid.split(".").slice(0, 3).join(".");
        const row = Number(oid.split(".")[3] ?? 0) + 1;
        return all.includes(`${column}.${row}`) ? [bind(`${column}.${row}`, row)] : [bind("1.3.3.1", 0)];
      });
    const found: string[] = [];
    await walkColumns(wireOf(next), ["1.3.1", "1.3.2"], limits, (column, { oid }) => {
      expect(isBelow(oid, column)).toBe(true);
      found.push(oid);
    });
    expect(found.sort()).toEqual(all.filter((oid) => !oid.startsWith("1.3.3")).sort());
  });
});
