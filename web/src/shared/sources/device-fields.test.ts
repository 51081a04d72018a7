import { describe, expect, test } from "vitest";
import { type Device, deviceKindNames, deviceKinds } from "../../../../core/sources/kinds/device-kinds.ts";
import { deviceCredentialsOf, deviceFieldsOf, deviceOf, deviceTrustOf, showsCertificate } from "./device-fields.ts";

const typed = (
  kind: Device["kind"],
  device: Readonly<Record<string, string | number | boolean>>,
  more: object = {},
) => {
  const fields = deviceFieldsOf(kind);
  return { ...fields, ...more, device: { ...fields.device, ...device } };
};

test("a wait is typed in seconds, labels with commas between", () => {
  expect(deviceOf("containers", typed("containers", { labels: " role, tier,,", command: true }))).toMatchObject({
    labels: ["role", "tier"],
    command: true,
  });
  expect(deviceOf("ipmi", typed("ipmi", { host: " bmc.quay ", timeoutMs: 2.5 }))).toEqual({
    kind: "ipmi",
    host: "bmc.quay",
    port: 623,
    timeoutMs: 2500,
  });
});

test("what the fields do not say stays as the source has it", () => {
  const before = { ...deviceKinds.snmp.fresh, host: "gate", modules: ["interfaces"], transport: "tcp" as const };
  const after = deviceOf("snmp", { ...deviceFieldsOf("snmp", before) }, before);
  expect(after).toEqual(before);
});

test("a choice that is the usual one is not said", () => {
  expect(deviceOf("snmp", typed("snmp", { host: "gate" }))).not.toHaveProperty("transport");
  expect(deviceOf("redfish", typed("redfish", { host: "bmc", scheme: "http" }))).toHaveProperty("scheme", "http");
  const overHttp = { kind: "redfish", scheme: "http", host: "bmc", port: 80, timeoutMs: 1000 } as const;
  expect(deviceOf("redfish", typed("redfish", { host: "bmc" }), overHttp)).not.toHaveProperty("scheme");
});

test.each(deviceKindNames)("a device of the kind %s is written as it was read", (kind) => {
  const { transport: _, scheme: __, ...device } = { transport: "", scheme: "", ...deviceKinds[kind].fresh };
  expect(deviceOf(kind, deviceFieldsOf(kind, device as unknown as Device), device as unknown as Device)).toEqual(
    device,
  );
});

describe("who we say we are", () => {
  test.each([
    ["ups", {}, {}, { kind: "none" }],
    ["redfish", {}, { user: "wren", password: "s" }, { kind: "basic", user: "wren", password: "s" }],
    ["snmp", {}, { community: "quay" }, { kind: "community", community: "quay" }],
    ["snmp", { version: "3" }, { user: "wren", level: "none" }, { kind: "snmp user", user: "wren", level: "none" }],
    ["snmp", {}, { keepsSecret: true }, undefined],
  ] as const)("%s %j %j: %j", (kind, device, more, credentials) => {
    const said = deviceCredentialsOf(kind, typed(kind, device, more));
    if (credentials === undefined) expect(said).toBeUndefined();
    else expect(said).toMatchObject(credentials);
  });
});

test("a certificate is asked about where one is shown", () => {
  expect(deviceKindNames.filter((kind) => showsCertificate(kind, deviceFieldsOf(kind)))).toEqual(["redfish"]);
  expect(showsCertificate("redfish", typed("redfish", { scheme: "http" }))).toBe(false);
});

test("a fingerprint is taken without blanks around it", () => {
  expect(deviceTrustOf(typed("redfish", {}, { trust: "fingerprint", sha256: " AB " }))).toEqual({
    kind: "fingerprint",
    sha256: "AB",
  });
});
