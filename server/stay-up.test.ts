import { EventEmitter } from "node:events";
import pino from "pino";
import { expect, test } from "vitest";
import { LogBook } from "./log-book.ts";
import { stayUp } from "./stay-up.ts";

function told() {
  const book = new LogBook();
  const log = pino({ level: "info" }, book);
  return { book, log };
}

test("failures that nobody waited for are told and end nothing", () => {
  const { book, log } = told();
  const process = new EventEmitter() as unknown as NodeJS.Process;
  const end = stayUp(log, process);
  (process as unknown as EventEmitter).emit("unhandledRejection", new Error("the queue is gone"));
  (process as unknown as EventEmitter).emit("uncaughtException", "a text");
  expect(book.entries().map(({ level, why }) => [level, why])).toEqual([
    ["error", "a text"],
    ["error", "the queue is gone"],
  ]);
  end();
  expect((process as unknown as EventEmitter).listenerCount("unhandledRejection")).toBe(0);
});

test("lines that say the same are one entry that counts; what is no warning is not kept; the oldest give way", () => {
  const { book, log } = told();
  log.info("all is well");
  for (let i = 0; i < 3; i++) log.warn({ err: new Error("no route"), source: "vault" }, "a page was not stored");
  expect(book.entries()).toMatchObject([
    { level: "warning", words: "a page was not stored (vault)", why: "no route", times: 3 },
  ]);
  for (let i = 0; i < 250; i++) log.error(`line x${i}`);
  expect(book.entries().length).toBe(200);
  expect(book.entries()[0]?.words).toBe("line x249");
  for (const [source, pause] of [
    ["vault1", "380.10497"],
    ["vault1", "708.9"],
    ["vault2", "12"],
  ])
    log.warn({ source }, `tried again in ${pause}ms`);
  expect(book.entries().slice(0, 2)).toMatchObject([
    { words: "tried again in 12ms (vault2)", times: 1 },
    { words: "tried again in 708.9ms (vault1)", times: 2 },
  ]);
  expect(() => book.write("no JSON\n")).not.toThrow();
});
