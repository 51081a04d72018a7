import type { Emit } from "../../counters/counter.ts";

/** What of a container rules look at. */
export interface ContainerFacts {
  readonly name: string;
  readonly image: string;
  readonly labels: Readonly<Record<string, string>>;
}

/** A container as the engine lists it. */
export interface EngineContainer extends ContainerFacts {
  readonly id: string;
  readonly command: string;
  /** running, paused, exited, stopped, created …: engines differ in the words. */
  readonly state: string;
  /** undefined where there is no health check, or it has not run yet. */
  readonly healthy: boolean | undefined;
  /** Bytes that it has written over its image; only in a list with sizes. */
  readonly writtenBytes: number | undefined;
}

/** The answer of `GET /containers/json?all=1`. Throws TypeError where it is no list. */
export function parseContainerList(json: unknown): readonly EngineContainer[] {
  if (!Array.isArray(json))
    throw new TypeError(`the list of containers is ${json === null ? "null" : typeof json}, not a list`);
  return json.map(tree).map((row) => {
    const id = textIn(row["Id"]);
    const name = Array.isArray(row["Names"]) ? textIn(row["Names"][0]) : "";
    const health = /\((healthy|unhealthy)\)/.exec(textIn(row["Status"]))?.[1];
    return {
      id,
      name: (name || id.slice(0, 12)).replace(/^\//, ""),
      image: textIn(row["Image"]) || "(none)",
      command: textIn(row["Command"]),
      state: textIn(row["State"]) || "unknown",
      labels: Object.fromEntries(
        Object.entries(tree(row["Labels"])).filter((label): label is [string, string] => typeof label[1] === "string"),
      ),
      healthy: health === undefined ? undefined : health === "healthy",
      writtenBytes: typeof row["SizeRw"] === "number" ? row["SizeRw"] : undefined,
    };
  });
}

type Tree = Readonly<Record<string, unknown>>;
const textIn = (value: unknown): string => (typeof value === "string" ? value : "");
const tree = (value: unknown): Tree => (typeof value === "object" && value !== null ? (value as Tree) : {});
const nanoseconds = 1e-9;
/** An engine without a limit answers with the size of the machine or a very large number. */
const noLimit = 2 ** 62;

/**
 * The answer of `GET /containers/ID/stats?stream=false&one-shot=true`; what an engine leaves out is left out. An empty
 * answer is a stopped container's.
 */
export function readEngineStats(json: unknown, tags: Readonly<Record<string, string>>, emit: Emit): void {
  const stats = tree(json);
  const cpu = tree(tree(stats["cpu_stats"])["cpu_usage"]);
  const give = (counter: string, value: unknown, more: Readonly<Record<string, string>> = {}, factor = 1) => {
    if (typeof value === "number" && Number.isFinite(value)) emit(counter, { ...tags, ...more }, value * factor);
  };
  if (typeof cpu["total_usage"] === "number" && cpu["total_usage"] > 0) {
    give("container.cpu.time", cpu["usage_in_usermode"], { mode: "user" }, nanoseconds);
    give("container.cpu.time", cpu["usage_in_kernelmode"], { mode: "system" }, nanoseconds);
    give(
      "container.cpu.throttled_time",
      tree(tree(stats["cpu_stats"])["throttling_data"])["throttled_time"],
      {},
      nanoseconds,
    );
  }
  const memory = tree(stats["memory_stats"]);
  const detail = tree(memory["stats"]);
  give("container.memory.usage", memory["usage"]);
  if (typeof memory["limit"] === "number" && memory["limit"] > 0 && memory["limit"] < noLimit)
    give("container.memory.limit", memory["limit"]);
  give("container.memory.cache", detail["file"] ?? detail["cache"]);
  give("container.memory.rss", detail["anon"] ?? detail["rss"]);
  give("container.memory.activity", sum(detail["active_anon"], detail["active_file"]), { state: "active" });
  give("container.memory.activity", sum(detail["inactive_anon"], detail["inactive_file"]), { state: "inactive" });
  readFaults(detail["pgfault"], detail["pgmajfault"], give);
  give("container.process.count", tree(stats["pids_stats"])["current"]);
  const blocks = tree(stats["blkio_stats"]);
  readBlocks(blocks["io_service_bytes_recursive"], "container.disk.io", give);
  readBlocks(blocks["io_serviced_recursive"], "container.disk.operations", give);
  for (const [name, row] of Object.entries(tree(stats["networks"]))) {
    const counts = tree(row);
    for (const [short, direction] of [
      ["rx", "receive"],
      ["tx", "transmit"],
    ] as const) {
      give("container.network.io", counts[`${short}_bytes`], { interface: name, direction });
      give("container.network.packet.count", counts[`${short}_packets`], { interface: name, direction });
    }
  }
}

function readFaults(
  all: unknown,
  major: unknown,
  give: (counter: string, value: unknown, more: Readonly<Record<string, string>>) => void,
): void {
  if (typeof all !== "number" || typeof major !== "number") return;
  give("container.paging.faults", major, { type: "major" });
  give("container.paging.faults", all - major, { type: "minor" });
}

function readBlocks(
  rows: unknown,
  counter: string,
  give: (counter: string, value: unknown, more: Readonly<Record<string, string>>) => void,
): void {
  if (!Array.isArray(rows)) return;
  for (const direction of ["read", "write"]) {
    const of = rows.map(tree).filter((row) => String(row["op"]).toLowerCase() === direction);
    if (of.length > 0)
      give(
        counter,
        of.reduce((total, row) => total + (Number(row["value"]) || 0), 0),
        { direction },
      );
  }
}

const sum = (a: unknown, b: unknown) => (typeof a === "number" && typeof b === "number" ? a + b : undefined);

/** The last moment that a Date can hold (ECMA-262 §21.4.1.1). */
const latestMs = 8.64e15;

/** What happened to a container; undefined for what is not worth an event. */
export interface ContainerEvent {
  readonly kind: "created" | "died" | "restarted" | "unhealthy";
  readonly atMs: number;
  readonly name: string;
  readonly image: string;
  readonly text: string;
}

/** A line of `GET /events`. */
export function parseEngineEvent(json: unknown): ContainerEvent | undefined {
  const event = tree(json);
  if (event["Type"] !== "container") return undefined;
  const attributes = tree(tree(event["Actor"])["Attributes"]);
  const name = textIn(attributes["name"]) || textIn(event["id"]).slice(0, 12);
  const atMs =
    typeof event["timeNano"] === "number"
      ? Math.floor(event["timeNano"] / 1e6)
      : typeof event["time"] === "number"
        ? event["time"] * 1000
        : Number.NaN;
  if (!(Math.abs(atMs) <= latestMs)) return undefined; // of no time that there is
  const base = { atMs, name, image: textIn(attributes["image"]) || textIn(event["from"]) };
  const action = textIn(event["Action"]) || textIn(event["status"]);
  const code = attributes["exitCode"] ?? attributes["containerExitCode"];
  switch (action.split(":")[0]) {
    case "create":
      return { ...base, kind: "created", text: `${name} was created` };
    case "die":
    case "died":
      return { ...base, kind: "died", text: `${name} ended${code === undefined ? "" : ` with code ${String(code)}`}` };
    case "restart":
      return { ...base, kind: "restarted", text: `${name} was restarted` };
    case "health_status":
      return /unhealthy/.test(`${action} ${String(attributes["health_status"] ?? "")} ${textIn(event["HealthStatus"])}`)
        ? { ...base, kind: "unhealthy", text: `${name} fails its health check` }
        : undefined;
    default:
      return undefined;
  }
}
