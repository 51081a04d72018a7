import { describe, expect, test } from "vitest";
import { isFrom, isNetwork } from "./address-range.ts";

describe("networks (RFC 4632, RFC 4291)", () => {
  test.each([
    ["192.0.2.7", true],
    ["192.0.2.0/24", true],
    ["0.0.0.0/0", true],
    ["2001:db8::/32", true],
    ["::1", true],
    ["192.0.2.0/33", false],
    ["192.0.2.0/-1", false],
    ["192.0.2.0/", false],
    ["192.0.2.0/24/8", false],
    ["192.0.2", false],
    ["2001:db8::/129", false],
    ["quay.example", false],
    ["", false],
  ])("%s: %s", (text, is) => expect(isNetwork(text)).toBe(is));

  test.each([
    [["192.0.2.0/24"], "192.0.2.255", true],
    [["192.0.2.0/24"], "192.0.3.0", false],
    [["192.0.2.0/24"], "::ffff:192.0.2.9", true],
    [["192.0.2.7"], "192.0.2.7", true],
    [["192.0.2.7"], "192.0.2.8", false],
    [["2001:db8::/32"], "2001:db8:ffff::1", true],
    [["2001:db8::/32"], "2001:db9::1", false],
    [["192.0.2.0/24", "::1"], "::1", true],
    [["192.0.2.0/24"], undefined, false],
    [["192.0.2.0/24"], "", false],
    [[], undefined, true],
  ])("from %j comes %s: %s", (networks, address, is) => expect(isFrom(networks, address)).toBe(is));
});
