import { readFileSync } from "node:fs";
import { expect, test } from "vitest";
import { readingsOf } from "../testing/readings-of.ts";
import { readDomstats } from "./domstats.ts";

const fixture = (name: string) => readFileSync(new URL(`../testing/fixtures/${name}`, import.meta.url), "utf8");

test("a running guest, as its virtualisation library tells it", () => {
  const readings = readingsOf((emit) => readDomstats(fixture("qemu-domstats.txt"), emit));
  expect(readings).toMatchObject({
    "guest.state.running{guest=guest-1}": 1,
    "guest.cpu.count{guest=guest-1}": 1,
    "guest.memory.limit{guest=guest-1}": 393_216 * 1024,
    "guest.network.io{direction=receive,guest=guest-1,interface=tapg1}": 1618,
    "guest.disk.io{device=vdb,direction=write,guest=guest-1}": 66_073_088,
    "guest.disk.usage{device=vda,guest=guest-1}": 8192,
    "guest.disk.limit{device=vda,guest=guest-1}": 67108864,
    "guest.disk.operations{device=vda,direction=read,guest=guest-1}": 95,
  });
  expect(readings["guest.cpu.time{guest=guest-1}"]).toBeCloseTo(15, 9);
});
test("memory: what the guest says it uses, of what it was given; what its process holds on the host is told apart, and may be more", () => {
  const told = (more: string) =>
    readingsOf((emit) => readDomstats(`Domain: 'a'\n  balloon.current=1000\n  balloon.rss=1460\n${more}`, emit));
  expect(told("  balloon.available=950\n  balloon.unused=100\n  balloon.usable=450\n")).toEqual({
    "guest.memory.limit{guest=a}": 1_024_000,
    "guest.memory.usage{guest=a}": 512_000,
    "guest.memory.resident{guest=a}": 1_495_040,
  });
  // an older hypervisor
  expect(told("  balloon.available=950\n  balloon.unused=100\n")["guest.memory.usage{guest=a}"]).toBe(850 * 1024);
  // a guest without the driver says nothing
  expect(told("")).toEqual({ "guest.memory.limit{guest=a}": 1_024_000, "guest.memory.resident{guest=a}": 1_495_040 });
});
test("five seconds later: 0.2 s of processor and 630 bytes received", () => {
  const [before, after] = ["qemu-domstats.txt", "qemu-domstats-5s-later.txt"].map((name) =>
    readingsOf((emit) => readDomstats(fixture(name), emit)),
  ) as [Record<string, number>, Record<string, number>];
  const grown = (key: string) => (after[key] as number) - (before[key] as number);
  expect(grown("guest.cpu.time{guest=guest-1}")).toBeCloseTo(0.2, 6);
  expect(grown("guest.network.io{direction=receive,guest=guest-1,interface=tapg1}")).toBe(630);
});
test("guests that are off tell their state only; names keep their quotes; nothing gives nothing", () => {
  expect(
    readingsOf((emit) =>
      readDomstats("Domain: 'attic'\n  state.state=5\n  state.reason=1\n\nDomain: 'it's odd'\n  state.state=3\n", emit),
    ),
  ).toEqual({ "guest.state.running{guest=attic}": 0, "guest.state.running{guest=it's odd}": 0 });
  expect(readDomstats("error: failed to connect to the hypervisor\n", () => {})).toBe(0);
});
