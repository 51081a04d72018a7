import { afterEach, describe, expect, test, vi } from "vitest";
import type { ReadingAnswer, ReadingDocument } from "../../../core/reading/document.ts";
import { askReading } from "./ask-reading.ts";
import { linesOf } from "./lines-of.ts";
import { RequestFailed } from "./client.ts";

interface Sent {
  readonly path: string;
  readonly body: { readonly readings?: readonly ReadingDocument[] } & Partial<ReadingDocument>;
  readonly signal: AbortSignal;
}

const documentOf = (counter: string): ReadingDocument => ({
  window: { from: 0, to: 1 },
  sentences: { a: { counter } },
});
const answerOf = (from: number): ReadingAnswer => ({ from, stepMs: 1, count: 0, tier: "raw", lines: [], notes: [] });
const never = new AbortController().signal;
const streamOf = (...pieces: readonly string[]) =>
  new ReadableStream<Uint8Array>({
    start(controller) {
      for (const piece of pieces) controller.enqueue(new TextEncoder().encode(piece));
      controller.close();
    },
  });

/** A server of the test's own: it notes what is sent and answers as told. */
function serve(answer: (sent: Sent) => Response | Promise<Response>): readonly Sent[] {
  const all: Sent[] = [];
  vi.stubGlobal("fetch", (path: string, { body, signal }: { body: string; signal: AbortSignal }) => {
    const sent = { path, body: JSON.parse(body), signal };
    all.push(sent);
    return Promise.resolve(answer(sent));
  });
  return all;
}

afterEach(() => vi.unstubAllGlobals());

describe("the readings of one moment", () => {
  test("go in one request; each is answered by its number, in whatever order and pieces they come", async () => {
    const whole = [2, 0, 1].map((index) => `${JSON.stringify({ index, answer: answerOf(index) })}\n`).join("");
    const sent = serve(() => new Response(streamOf(whole.slice(0, 7), whole.slice(7, 90), whole.slice(90))));
    const answers = await Promise.all(["x", "y", "z"].map((counter) => askReading(documentOf(counter), never)));
    expect(answers.map(({ from }) => from)).toEqual([0, 1, 2]);
    expect(sent.map(({ path }) => path)).toEqual(["/api/readings/several"]);
    expect(sent[0]?.body.readings?.map(({ sentences }) => sentences["a"]?.counter)).toEqual(["x", "y", "z"]);
  });
  test("one alone goes by itself", async () => {
    const sent = serve(() => Response.json(answerOf(7)));
    expect((await askReading(documentOf("x"), never)).from).toBe(7);
    expect(sent.map(({ path, body }) => [path, body.sentences?.["a"]?.counter])).toEqual([["/api/readings", "x"]]);
  });
  test("those asked for later go in a request of their own; more than sixty in two", async () => {
    const sent = serve(({ body }) =>
      body.readings
        ? new Response(
            streamOf(
              body.readings.map((_, index) => `${JSON.stringify({ index, answer: answerOf(index) })}\n`).join(""),
            ),
          )
        : Response.json(answerOf(0)),
    );
    await Promise.all(Array.from({ length: 61 }, (_, i) => askReading(documentOf(`c${i}`), never)));
    await askReading(documentOf("later"), never);
    expect(sent.map(({ path, body }) => [path, body.readings?.length])).toEqual([
      ["/api/readings/several", 60],
      ["/api/readings", undefined],
      ["/api/readings", undefined],
    ]);
  });
});

describe("what goes wrong", () => {
  const outcomes = (asked: readonly Promise<ReadingAnswer>[]) =>
    Promise.all(
      asked.map((one) =>
        one.then(
          ({ from }) => from,
          (error: Error) => error,
        ),
      ),
    );
  test("one that is wrong fails with its problem, the others are answered", async () => {
    serve(
      () =>
        new Response(
          streamOf(
            `${JSON.stringify({ index: 0, problem: { status: 422, title: "No", detail: '"figure" cannot be read', errors: [{ path: "figure", message: "x" }] } })}\n${JSON.stringify({ index: 1, answer: answerOf(1) })}\n`,
          ),
        ),
    );
    const [wrong, right] = await outcomes([askReading(documentOf("x"), never), askReading(documentOf("y"), never)]);
    expect(wrong).toBeInstanceOf(RequestFailed);
    expect(wrong).toMatchObject({ status: 422, message: '"figure" cannot be read', errors: [{ path: "figure" }] });
    expect(right).toBe(1);
  });
  test("a refusal of the whole fails all with its words", async () => {
    serve(() => Response.json({ status: 401, detail: "Sign in first" }, { status: 401 }));
    for (const outcome of await outcomes([askReading(documentOf("x"), never), askReading(documentOf("y"), never)]))
      expect(outcome).toMatchObject({ status: 401, message: "Sign in first" });
  });
  test("an answer that breaks off fails what is missing, to be asked again", async () => {
    serve(() => new Response(streamOf(`${JSON.stringify({ index: 1, answer: answerOf(1) })}\n`)));
    const [missing, there] = await outcomes([askReading(documentOf("x"), never), askReading(documentOf("y"), never)]);
    expect(missing).toMatchObject({ status: 0, message: expect.stringContaining("broke off") });
    expect(there).toBe(1);
  });
  test("no server at all is told as such", async () => {
    serve(() => Promise.reject(new TypeError("Failed to fetch")));
    for (const outcome of await outcomes([askReading(documentOf("x"), never), askReading(documentOf("y"), never)]))
      expect(outcome).toMatchObject({ status: 0, message: expect.stringContaining("does not answer") });
  });
  test("the request is given up when nobody waits for any of it any more, not before", async () => {
    const sent = serve(
      ({ signal }) => new Promise((_, fail) => signal.addEventListener("abort", () => fail(signal.reason))),
    );
    const [first, second] = [new AbortController(), new AbortController()];
    const asked = outcomes([askReading(documentOf("x"), first.signal), askReading(documentOf("y"), second.signal)]);
    await Promise.resolve();
    first.abort();
    expect(sent[0]?.signal.aborted).toBe(false);
    second.abort();
    expect(sent[0]?.signal.aborted).toBe(true);
    for (const outcome of await asked) expect((outcome as Error).name).toBe("AbortError");
  });
  test("what is given up at once is never sent", async () => {
    const sent = serve(() => Response.json(answerOf(3)));
    const gone = new AbortController();
    const asked = outcomes([askReading(documentOf("x"), gone.signal), askReading(documentOf("y"), never)]);
    gone.abort();
    const [left, kept] = await asked;
    expect((left as Error).name).toBe("AbortError");
    expect(kept).toBe(3);
    expect(sent.map(({ path }) => path)).toEqual(["/api/readings"]);
  });
});

test("lines of a body: split anywhere, letters of several bytes too, the last without its end", async () => {
  const bytes = new TextEncoder().encode('{"a":"°C"}\n\n{"b":1}\n{"c":2}');
  const body = new ReadableStream<Uint8Array>({
    start(controller) {
      for (const byte of bytes) controller.enqueue(Uint8Array.of(byte));
      controller.close();
    },
  });
  const found: string[] = [];
  for await (const line of linesOf(body)) found.push(line);
  expect(found).toEqual(['{"a":"°C"}', '{"b":1}', '{"c":2}']);
});
