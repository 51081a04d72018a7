// @vitest-environment jsdom
import { beforeEach, expect, test } from "vitest";
import { forgetKeptPages, type KeptPage, keepPage, keptPage, keptPages } from "./kept-pages.ts";

beforeEach(() => localStorage.clear());

const dayMs = 86_400_000;
const page = (path: string, more: Partial<KeptPage> = {}): KeptPage => ({
  ...{ path, search: "", title: "vault · Nubrel", stood: "Mon 2026-11-30 13:02", stoodMs: 1000 * dayMs },
  ...{ theme: "day", html: "<p>busy</p>" },
  ...more,
});

test("a page is there at its own address, and not with another window", () => {
  keepPage(page("/machines/vault", { search: "?last=3600" }));
  expect(keptPage({ pathname: "/machines/vault", search: "?last=3600" })?.html).toBe("<p>busy</p>");
  expect(keptPage({ pathname: "/machines/vault", search: "" })).toBeUndefined();
  expect(keptPage({ pathname: "/machines/hive", search: "?last=3600" })).toBeUndefined();
});

test("of one path the newest is kept, and of many paths the newest eight", () => {
  for (let i = 0; i < 12; i++) keepPage(page(`/machines/m${i}`, { stoodMs: 1000 * dayMs + i }));
  keepPage(page("/machines/m11", { stoodMs: 1000 * dayMs + 12, html: "<p>idle</p>" }));
  expect(keptPages(1000 * dayMs).map(({ path }) => path)).toEqual(
    [11, 10, 9, 8, 7, 6, 5, 4].map((i) => `/machines/m${i}`),
  );
  expect(keptPage({ pathname: "/machines/m11", search: "" })?.html).toBe("<p>idle</p>");
});

test("one that is huge is not kept, and one that is a month old is let go of", () => {
  keepPage(page("/", { html: "x".repeat(400_000) }));
  keepPage(page("/counters"));
  expect(keptPages(1000 * dayMs).map(({ path }) => path)).toEqual(["/counters"]);
  expect(keptPages(1031 * dayMs)).toEqual([]);
  expect(localStorage.length).toBe(0);
});

test("what somebody began is not touched, neither when pages are forgotten nor where nothing more may be kept", () => {
  localStorage.setItem("nubrel.draft.7", "begun");
  keepPage(page("/"));
  forgetKeptPages();
  expect(Object.keys(localStorage)).toEqual(["nubrel.draft.7"]);
  keepPage(page("/counters"));
  const set = Storage.prototype.setItem;
  Storage.prototype.setItem = () => {
    throw new DOMException("full", "QuotaExceededError");
  };
  keepPage(page("/alerts"));
  Storage.prototype.setItem = set;
  expect(Object.keys(localStorage)).toEqual(["nubrel.draft.7"]);
});

test.each(["", "{", "null", "7", '{"html":7}'])("what is no page, such as %j, is none and is let go of", (text) => {
  localStorage.setItem("nubrel.kept./", text);
  expect(keptPage({ pathname: "/", search: "" })).toBeUndefined();
  expect(keptPages(0)).toEqual([]);
  expect(localStorage.length).toBe(0);
});
