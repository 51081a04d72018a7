// @vitest-environment jsdom
import { QueryClient } from "@tanstack/react-query";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { forgetKept, showKeptUntilDrawn } from "./until-drawn.ts";

let queries: QueryClient;
beforeEach(() => {
  vi.useFakeTimers({ toFake: ["setInterval", "clearInterval", "performance", "requestAnimationFrame", "setTimeout"] });
  document.body.innerHTML = '<div id="root"><main id="view"></main></div><div id="kept-page"></div>';
  queries = new QueryClient();
});
afterEach(() => vi.useRealTimers());

const kept = () => document.getElementById("kept-page");
const pass = (ms: number) => vi.advanceTimersByTimeAsync(ms);

test("it stands while the server does not answer, however long that takes", async () => {
  showKeptUntilDrawn(queries);
  await pass(3_600_000);
  expect(kept()).not.toBeNull();
});

test("it goes once somebody is known and all that was asked for is drawn", async () => {
  showKeptUntilDrawn(queries);
  let answer: (value: number) => void = () => {};
  queries.setQueryData(["me"], { name: "Ines" });
  void queries.fetchQuery({ queryKey: ["machines"], queryFn: () => new Promise((done) => (answer = done)) });
  await pass(1000);
  expect(kept()).not.toBeNull();
  answer(1);
  await pass(200);
  expect(kept()).toBeNull();
});

test("a view whose code has not come is not drawn", async () => {
  (document.getElementById("view") as HTMLElement).innerHTML = '<p aria-busy="true">opening …</p>';
  queries.setQueryData(["me"], { name: "Ines" });
  showKeptUntilDrawn(queries);
  await pass(1000);
  expect(kept()).not.toBeNull();
  (document.getElementById("view") as HTMLElement).innerHTML = "<h1>Fleet</h1>";
  await pass(200);
  expect(kept()).toBeNull();
});

test("what is slow after that is waited for on the page itself", async () => {
  queries.setQueryData(["me"], { name: "Ines" });
  void queries.fetchQuery({ queryKey: ["slow"], queryFn: () => new Promise(() => {}) });
  showKeptUntilDrawn(queries);
  await pass(3900);
  expect(kept()).not.toBeNull();
  await pass(400);
  expect(kept()).toBeNull();
});

test("nobody is signed in: it goes, and all that is kept with it", () => {
  localStorage.setItem("nubrel.kept./", "{}");
  forgetKept();
  expect(kept()).toBeNull();
  expect(localStorage.length).toBe(0);
});
