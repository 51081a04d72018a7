import { describe, expect, test } from "vitest";
import type { SourceView } from "../../../../core/api/sources.ts";
import { addressOf, credentialsOf, splitAddress, trustOf, defaultPullFields } from "./pull-fields.tsx";
import { csvCommand, curlCommand, linuxCommand, otlpSettings, windowsCommand } from "./sending.ts";
import { addressText, leftOutWords, signalOf, stateWords } from "./source-words.ts";

const nowMs = 1_795_449_600_000;
const view = (more: Partial<SourceView>): SourceView => ({
  id: 1,
  kind: "pull",
  name: "gate",
  machine: "gate",
  intervalMs: 5000,
  tellsSilence: true,
  address: null,
  trust: { kind: "system" },
  device: null,
  credentials: "none",
  pause: null,
  tags: {},
  take: [],
  csv: null,
  state: "reporting",
  heardMs: nowMs - 3000,
  tookMs: 5,
  nextMs: null,
  certificateUntilMs: null,
  found: 1,
  taken: 1,
  leftOut: {},
  failure: null,
  failures: 0,
  clockBehindMs: null,
  measuredLateMs: 0,
  relay: null,
  senderVersion: null,
  hasRaw: true,
  ...more,
});
const failure = { kind: "wrong path", words: "nothing there", remedy: "look", atMs: nowMs, certificate: null } as const;

describe("how a source stands", () => {
  test.each([
    [{}, "reporting", "quiet"],
    [{ failure }, "reporting; the last try failed", "building"],
    [{ state: "late", heardMs: nowMs - 12_000 }, "late, heard 12 s ago", "building"],
    [{ state: "silent", heardMs: nowMs - 7_260_000 }, "silent for 2 h 1 min", "blind"],
    [{ state: "silent", heardMs: null }, "never heard", "blind"],
    [{ state: "waiting", heardMs: null }, "waits for its first answer", "quiet"],
    [{ state: "waiting", heardMs: null, kind: "push" }, "waits to be heard for the first time", "quiet"],
    [{ state: "paused" }, "paused", "quiet"],
  ] as const)("%j: %s, %s", (more, words, signal) => {
    expect([stateWords(view(more), nowMs), signalOf(view(more))]).toEqual([words, signal]);
  });
  test.each([
    [{}, undefined],
    [{ "left by a rule": 7 }, "7 left out: left by a rule"],
    [{ "left by a rule": 1200, "no number (NaN)": 34 }, "1,234 left out: 1,200 left by a rule, 34 no number (NaN)"],
  ])("%j left out: %s", (leftOut, words) => {
    expect(leftOutWords(leftOut)).toBe(words);
  });
  test("an address is written as one would type it, one in numbers of the newer kind in brackets", () => {
    expect(addressText({ scheme: "https", host: "fd00::2", port: 9100, path: "/metrics?a=b", timeoutMs: 1 })).toBe(
      "https://[fd00::2]:9100/metrics?a=b",
    );
  });
});

describe("what is typed about an address", () => {
  test("becomes an address; a path that was taken away is the usual one", () => {
    expect(addressOf({ ...defaultPullFields, host: " gate.quay ", path: " ", timeoutSeconds: 0.25 })).toEqual({
      scheme: "http",
      host: "gate.quay",
      port: 9100,
      path: "/metrics",
      timeoutMs: 250,
    });
  });
  test.each([
    [{ trust: "fingerprint", sha256: " AB " }, { kind: "system" }], // clear text: nothing to believe
    [
      { scheme: "https", trust: "fingerprint", sha256: " AB " },
      { kind: "fingerprint", sha256: "AB" },
    ],
    [
      { scheme: "https", trust: "issuer", pem: "x" },
      { kind: "issuer", pem: "x" },
    ],
    [{ scheme: "https", trust: "unchecked" }, { kind: "unchecked" }],
  ] as const)("%j is believed as %j", (more, trust) => {
    expect(trustOf({ ...defaultPullFields, ...more })).toEqual(trust);
  });
  test.each([
    [{ credentials: "keep" }, undefined],
    [{ credentials: "none", pause: null, secret: "left over" }, { kind: "none" }],
    [
      { credentials: "basic", user: "ines", secret: "x" },
      { kind: "basic", user: "ines", password: "x" },
    ],
    [
      { credentials: "bearer", user: "left over", secret: "x" },
      { kind: "bearer", token: "x" },
    ],
  ] as const)("%j says who we are by %j", (more, credentials) => {
    expect(credentialsOf({ ...defaultPullFields, ...more })).toEqual(credentials);
  });
});

describe("texts to paste", () => {
  const sending = { origin: "https://nubrel.quay:7373", token: "nub_x", pin: null };
  const all = [linuxCommand, windowsCommand, curlCommand, csvCommand];
  test("hold address and token, and nothing to fill in", () => {
    for (const make of [...all, otlpSettings]) {
      expect(make(sending)).toContain("https://nubrel.quay:7373/");
      expect(make(sending)).toContain("Bearer nub_x");
      expect(make(sending)).not.toMatch(/[<>@]\w+[<>@]|undefined|null/);
    }
  });
  test("check the server's key where nobody but this house knows its issuer, and never switch checking off alone", () => {
    for (const make of all) {
      expect(make(sending)).not.toContain("--insecure");
      expect(make({ ...sending, pin: "sha256//abc=" })).toMatch(/--insecure --pinnedpubkey '?sha256\/\/abc='?/);
    }
    expect(otlpSettings({ ...sending, pin: "sha256//abc=" })).toContain("OTEL_EXPORTER_OTLP_METRICS_CERTIFICATE=");
  });
});

test.each([
  ["gate.quay", undefined],
  ["gate.quay:9100", { host: "gate.quay", port: 9100 }],
  ["gate.quay/metrics/all?a=b", { host: "gate.quay", path: "/metrics/all?a=b" }],
  ["gate.quay:9100/metrics", { host: "gate.quay", port: 9100, path: "/metrics" }],
  ["http://gate.quay/metrics", { scheme: "http", host: "gate.quay", port: 80, path: "/metrics" }],
  ["HTTPS://gate.quay", { scheme: "https", host: "gate.quay", port: 443 }],
  ["https://[fd00::2]:9100/", { scheme: "https", host: "fd00::2", port: 9100 }],
  ["user@gate", undefined],
])("a whole address that is typed where the name stands, %s, is taken apart", (text, parts) => {
  expect(splitAddress(text)).toEqual(parts);
});
