// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { type ReactNode, useState } from "react";
import { afterEach, describe, expect, test, vi } from "vitest";
import type { CounterView } from "../../../core/api/counters.ts";
import type { Drawn } from "../../../core/drawing/drawings.ts";
import { counterQuery, countersQuery } from "../api/queries.ts";
import type { OpenReading } from "./reading-address.ts";
import { ReadingEditor } from "./reading-editor.tsx";

afterEach(cleanup);
// The document of tests has no layout.
vi.stubGlobal(
  "ResizeObserver",
  class {
    observe() {}
    unobserve() {}
    disconnect() {}
  },
);
Element.prototype.scrollIntoView = () => {};

const counter = (name: string, more: Partial<CounterView>): CounterView => ({
  name,
  words: name,
  explains: "",
  unit: "By",
  kind: "total",
  series: 2,
  reduction: { combine: "sum", per: [] } as unknown as CounterView["reduction"],
  limit: null,
  machines: ["hive", "vault"],
  tags: [{ tag: "machine", values: ["hive", "vault"] }],
  ...more,
});
const counters = [
  counter("system.network.io", { words: "network traffic" }),
  counter("system.memory.usage", { words: "memory in use", kind: "level" }),
];

interface Said {
  readonly reading: OpenReading;
  readonly drawn: Drawn;
}

const busy = {
  id: "processor",
  words: "processor busy",
  subject: "Processor",
  explains: "Time in all modes but idle.",
  reading: { sentences: { busy: { counter: "system.cpu.time" } }, figure: "busy * 100", unit: "%" },
};

/** The editor with what it says, as a view holds it. */
function Held({ first, tell }: { first: Said; tell: (said: Said) => void }): ReactNode {
  const [held, setHeld] = useState(first);
  tell(held);
  return (
    <ReadingEditor
      reading={held.reading}
      drawn={held.drawn}
      stepMs={15_000}
      figures={(typed) => (busy.words.includes(typed) ? [busy] : [])}
      onChange={(reading, drawn) => setHeld({ reading, drawn })}
    />
  );
}

function edited(first: OpenReading): { readonly now: () => Said } {
  let now: Said = { reading: first, drawn: "lines" };
  const client = new QueryClient({
    defaultOptions: { queries: { retry: false, staleTime: Number.POSITIVE_INFINITY } },
  });
  client.setQueryData(countersQuery.queryKey, counters);
  for (const one of counters) client.setQueryData(counterQuery(one.name).queryKey, one as never);
  render(
    <QueryClientProvider client={client}>
      <Held first={now} tell={(said) => (now = said)} />
    </QueryClientProvider>,
  );
  return { now: () => now };
}
const traffic: OpenReading = { sentences: { a: { counter: "system.network.io" } } };
const choose = (label: string, words: string) => userEvent.selectOptions(screen.getByLabelText(label), words);

describe("a sentence", () => {
  test("says its counter in words, and which machines it is about", () => {
    edited(traffic);
    expect(document.querySelector("[data-sentence]")?.textContent).toMatch(/^Show network traffic.* of .*machine/);
  });
  test("has a step of its own where one is chosen, and none where it suits itself", async () => {
    const { now } = edited(traffic);
    expect(screen.getByLabelText("length of a step")).toHaveProperty("value", "auto");
    await choose("length of a step", "300");
    expect(now().reading.step).toBe(300);
    await choose("length of a step", "auto");
    expect(now().reading).not.toHaveProperty("step");
  });
  test("is drawn as chosen, beside an earlier time", async () => {
    const { now } = edited(traffic);
    await choose("drawn as", "areas on one another");
    await choose("beside an earlier time", "7d");
    expect(now()).toMatchObject({ drawn: "stacked", reading: { beside: "7d" } });
    await choose("beside an earlier time", "");
    expect(now().reading).not.toHaveProperty("beside");
  });
});

describe("several sentences", () => {
  test("have names by which arithmetic speaks of them; a name that it cannot speak of is not taken", async () => {
    const { now } = edited(traffic);
    await userEvent.click(screen.getByRole("button", { name: "another sentence beside it" }));
    expect(Object.keys(now().reading.sentences)).toEqual(["a", "b"]);
    const name = screen.getByLabelText("name of the sentence b");
    await userEvent.clear(name);
    await userEvent.type(name, "2 b");
    expect(screen.getByRole("alert").textContent).toContain("a letter first");
    await userEvent.clear(name);
    await userEvent.type(name, "a");
    expect(screen.getByRole("alert").textContent).toContain("has this name");
    await userEvent.clear(name);
    await userEvent.type(name, "before{Enter}");
    expect(Object.keys(now().reading.sentences)).toEqual(["a", "before"]);
  });
  test("one is left out again", async () => {
    const { now } = edited({ sentences: { ...traffic.sentences, b: { counter: "system.memory.usage" } } });
    await userEvent.click(screen.getByRole("button", { name: "leave out a" }));
    expect(Object.keys(now().reading.sentences)).toEqual(["b"]);
  });
});

describe("the document behind it", () => {
  test("can be changed and drawn; what is no reading is told, and what is drawn stays", async () => {
    const { now } = edited(traffic);
    await userEvent.click(screen.getByRole("button", { name: "its document" }));
    const text = screen.getByLabelText(/document behind/);
    expect(JSON.parse((text as HTMLTextAreaElement).value)).toEqual(traffic);
    await userEvent.clear(text);
    await userEvent.type(text, "{{}");
    await userEvent.click(screen.getByRole("button", { name: "Draw this" }));
    expect(screen.getByRole("alert").textContent).not.toBe("");
    expect(now().reading).toEqual(traffic);
    await userEvent.clear(text);
    await userEvent.click(text);
    await userEvent.paste('{"sentences":{"m":{"counter":"system.memory.usage","of_every":"max"}}}');
    await userEvent.click(screen.getByRole("button", { name: "Draw this" }));
    expect(now().reading).toEqual({ sentences: { m: { counter: "system.memory.usage", of_every: "max" } } });
  });
});

describe("what people ask for by name", () => {
  test("is offered before the counters, and stands for the whole reading", async () => {
    const { now } = edited(traffic);
    await userEvent.click(screen.getByLabelText("counter: network traffic"));
    await userEvent.type(screen.getByPlaceholderText("name, words, tag …"), "busy");
    await userEvent.click(await screen.findByText("processor busy"));
    expect(now().reading).toEqual(busy.reading);
  });
});

describe("what anyone would expect", () => {
  test("is no word of the sentence, but an offer", async () => {
    const { now } = edited(traffic);
    const sentence = document.querySelector("[data-sentence]")?.textContent ?? "";
    expect(sentence).not.toMatch(/all lines|at its time/);
    expect(screen.getByLabelText<HTMLSelectElement>("beside an earlier time").selectedOptions[0]?.text).toBe(
      "beside …",
    );
    await choose("beside an earlier time", "beside a week earlier");
    expect(now().reading.beside).toBe("7d");
    expect(screen.getByText("beside nothing")).toBeDefined();
  });
});
