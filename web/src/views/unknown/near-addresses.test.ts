import { expect, test } from "vitest";
import { nearAddresses } from "./near-addresses.ts";

const pages = [
  { to: "/", words: "Fleet" },
  { to: "/alerts", words: "Alerts" },
  { to: "/dashboards", words: "Dashboards" },
  { to: "/machines/vault", words: "vault" },
  { to: "/sources", words: "Sources" },
];
const near = (path: string) => nearAddresses(path, pages).map(({ to }) => to);

test.each([
  ["/alert", ["/alerts"]],
  ["/dashbord/3", ["/dashboards"]],
  ["/machine/vault", ["/machines/vault"]],
  ["/fleet", ["/"]],
  ["/xyz", []],
  ["/", []],
])("near %s are %j", (path, expected) => expect(near(path)).toEqual(expected));

test("a long address is looked at in part", () => {
  expect(near("/a".repeat(100_000))).toEqual([]);
});
