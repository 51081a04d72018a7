import { emptyDashboard } from "../../core/dashboards/dashboard.ts";
import type { HttpClient } from "./http-client.ts";

// What a database of a version holds, of each kind that must be the same in every later one.

const hourMs = 3_600_000;
/** A fixed window, so that what was read by one version can be read again by another. */
const versionWindow = { from: Date.UTC(2026, 9, 1, 6), to: Date.UTC(2026, 9, 1, 8) };

const pools = ["archive", "scratch"] as const;
const reading = { sentences: { fill: { counter: "pool_fill", lines: { per: ["pool"] } } } } as const;
const rule = {
  name: "A pool fills up",
  reading: { ...reading, unit: "1" },
  compare: "above",
  notice: { high: 0.8, clearHigh: 0.75 },
  urgent: { high: 0.95 },
  mustLastSeconds: 120,
};
const tile = {
  id: "a",
  title: "Pools",
  kind: "lines",
  place: { x: 0, y: 0, width: 6, height: 6 },
  reading,
};

/** Fills an empty Nubrel. Throws where something is refused. */
export async function fillVersion(owner: HttpClient, address: string): Promise<void> {
  const made = async (path: string, body: object, method = "POST") => {
    const answer = await owner.ask(method, `/api${path}`, body);
    if (answer.status >= 300) throw new Error(`${method} ${path}: ${answer.status} ${JSON.stringify(answer.body)}`);
    return answer.body;
  };
  await made("/retention", { rawDays: 3650, fiveMinuteDays: 3650, hourDays: 36_500 }, "PUT");
  const source = await made("/sources", {
    kind: "push",
    name: "pools",
    machine: "vault",
    intervalMs: 60_000,
    backDays: 3650,
  });
  const { token } = await made("/tokens", { name: "pools", scope: "write", sourceId: source.id });
  const text = [];
  const each = (sample: (pool: string, minute: number) => string) => {
    for (const pool of pools)
      for (let ms = versionWindow.from - hourMs; ms < versionWindow.to + hourMs; ms += 60_000)
        text.push(`${sample(pool, (ms - versionWindow.from) / 60_000)} ${ms / 1000}`);
  };
  text.push("# TYPE pool_fill gauge");
  each((pool, minute) => {
    const fill = 0.5 + (pool === "archive" ? minute / 1000 : Math.sin(minute / 20) / 10);
    return `pool_fill{pool="${pool}"} ${fill}`;
  });
  text.push("# TYPE scrub_read counter");
  each((pool, minute) => `scrub_read_total{pool="${pool}"} ${(minute + 60) * 1e6}`);
  const pushed = await fetch(`${address}/api/push/openmetrics`, {
    method: "POST",
    headers: { Authorization: `Bearer ${token}`, "Content-Type": "application/openmetrics-text; version=1.0.0" },
    body: `${text.join("\n")}\n# EOF\n`,
  });
  if (pushed.status !== 200) throw new Error(`push: ${pushed.status} ${await pushed.text()}`);
  await made("/rules", rule);
  const document = { ...emptyDashboard("Pools"), tags: ["storage"], tiles: [tile] };
  await made("/dashboards", { document });
  await made("/events", {
    fromMs: versionWindow.from,
    toMs: versionWindow.from + hourMs,
    kind: "scrub",
    machine: "vault",
    text: "scrub of archive",
  });
  await made("/recipients", { name: "on call", kind: "webhook", webhook: { url: "http://127.0.0.1:9/told" } });
  await made("/recordings", {
    name: "scrubs",
    everySeconds: 5,
    forSeconds: 600,
    sentences: [{ counter: "pool_fill" }],
  });
  await made("/machines/vault", { friendlyName: "the vault", tags: { room: "cellar" } }, "PUT");
}

/** What such a database answers of what was filled in, without what a clock says. */
export async function contentOf(owner: HttpClient): Promise<object> {
  const ask = async (method: string, path: string, body?: object) => {
    const answer = await owner.ask(method, `/api${path}`, body);
    if (answer.status >= 300) throw new Error(`${method} ${path}: ${answer.status} ${JSON.stringify(answer.body)}`);
    return answer.body;
  };
  const { from, to } = versionWindow;
  const read = (counter: string, as: string) =>
    ask("POST", "/readings", {
      window: versionWindow,
      step: 600,
      sentences: { a: { counter, as, lines: { per: ["pool"] } } },
    });
  const [rules, dashboards, recipients, recordings] = await Promise.all(
    ["/rules", "/dashboards", "/recipients", "/recordings"].map((path) => ask("GET", path)),
  );
  const documents = await Promise.all(dashboards.map(({ id }: { id: number }) => ask("GET", `/dashboards/${id}`)));
  const linesOf = (answer: { lines: { tags: object; unit: string; values: unknown }[] }) =>
    answer.lines.map(({ tags, unit, values }) => ({ tags, unit, values }));
  return {
    levels: linesOf(await read("pool_fill", "value")),
    totals: linesOf(await read("scrub_read", "increase")),
    rules: rules.map(({ name, compare, notice, urgent, mustLastSeconds, reading: of }: Record<string, unknown>) => ({
      ...{ name, compare, notice, urgent, mustLastSeconds, reading: of },
    })),
    dashboards: documents.map(({ document, revision, changedBy }) => ({ document, revision, changedBy })),
    events: (await ask("GET", `/events?from=${from}&to=${to}&machine=vault`)).map(
      ({ fromMs, toMs, kind, text }: Record<string, unknown>) => ({ fromMs, toMs, kind, text }),
    ),
    recipients: recipients.map(({ name, kind }: Record<string, unknown>) => ({ name, kind })),
    recordings: recordings.map(({ name, everySeconds, forSeconds, sentences }: Record<string, unknown>) => ({
      ...{ name, everySeconds, forSeconds, sentences },
    })),
    machine: (({ friendlyName, tags }: Record<string, unknown>) => ({ friendlyName, tags }))(
      await ask("GET", "/machines/vault"),
    ),
  };
}
