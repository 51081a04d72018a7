import type { Reading } from "../../../core/counters/reading.ts";
import type { Emit } from "../../../core/counters/counter.ts";
import {
  type ContainerEvent,
  type EngineContainer,
  parseContainerList,
  parseEngineEvent,
  readEngineStats,
} from "../../../core/formats/containers/engine.ts";
import { takesContainer } from "../../../core/sources/container-choice.ts";
import type { ContainersDevice } from "../../../core/sources/kinds/containers.ts";
import type { DeviceGatherer, Gathered } from "../device-gatherer.ts";
import { WhichTells } from "../which-tells.ts";
import { PullError } from "../../transport/pull-error.ts";
import type { MachineFiles } from "../this-machine/machine-files.ts";
import { type ControlGroup, findControlGroups, readControlGroup } from "./control-groups.ts";
import type { Engine } from "./engine-socket.ts";

/**
 * Sizes make the engine walk through its disks; restarts need a question for each container. Both change slowly. In
 * gatherings.
 */
const slowEvery = 20;
const groupsEvery = 4;
const mostEvents = 500;

/** Asks a container engine, and reads the kernel's control groups, which tell more and cost less. */
export class ContainerGatherer implements DeviceGatherer {
  readonly #engine: Engine | undefined;
  readonly #files: MachineFiles | undefined;
  readonly #device: ContainersDevice;
  #round = 0;
  readonly #tells = new WhichTells();
  #groups: ReadonlyMap<string, ControlGroup> = new Map();
  #sizes: ReadonlyMap<string, number> = new Map();
  #restarts: ReadonlyMap<string, number> = new Map();
  #events: ContainerEvent[] = [];
  #unfollow: (() => void) | undefined;

  constructor(device: ContainersDevice, engine: Engine | undefined, files: MachineFiles | undefined) {
    this.#device = device;
    this.#engine = engine;
    this.#files = files;
  }

  async gather(_nowMs?: number, only?: ReadonlySet<string>): Promise<Gathered> {
    const readings: Reading[] = [];
    const emit: Emit = (counter, tags, value) => void readings.push({ counter, tags, value });
    const slow = !only && this.#round % slowEvery === 0;
    if (this.#files && this.#round % groupsEvery === 0) this.#groups = findControlGroups(this.#files);
    if (!only || this.#round === 0) this.#round++;
    if (!this.#engine) {
      for (const group of this.#groups.values()) this.#readGroup(group, { container: group.id.slice(0, 12) }, emit);
      return { readings, raw: [...this.#groups.keys()].join("\n"), rawType: "text/plain" };
    }
    this.#follow();
    const all = await this.#list(slow);
    const taken = all.filter((one) => takesContainer(this.#device, one));
    this.#count(taken, emit);
    for (const one of taken) await this.#readContainer(one, { slow, only }, emit);
    if (only) return { readings, raw: "", rawType: "application/json" };
    const events = this.#events
      .splice(0)
      .filter((event) => takesContainer(this.#device, { name: event.name, image: event.image, labels: {} }));
    return {
      readings,
      raw: JSON.stringify(all, null, 1),
      rawType: "application/json",
      events: events.map(({ kind, atMs, name, image, text }) => ({
        kind: `container ${kind}`,
        fromMs: atMs,
        toMs: atMs,
        text,
        tags: { container: name, image },
      })),
    };
  }

  async close(): Promise<void> {
    this.#unfollow?.();
  }

  async #list(slow: boolean): Promise<readonly EngineContainer[]> {
    const { status, json } = await (this.#engine as Engine).get(`/containers/json?all=1${slow ? "&size=1" : ""}`);
    if (status !== 200)
      throw new PullError(
        "refused",
        `The engine refuses its list of containers (${status}).`,
        "Look whether this socket gives full access; some give a part.",
      );
    let all: readonly EngineContainer[];
    try {
      all = parseContainerList(json);
    } catch (error) {
      throw new PullError(
        "not the format",
        `What answers at this socket is not a container engine: ${(error as Error).message}.`,
        "Give the path of the engine's own socket.",
        { cause: error },
      );
    }
    if (slow) {
      this.#sizes = new Map(
        all.flatMap(({ id, writtenBytes }) => (writtenBytes === undefined ? [] : [[id, writtenBytes] as const])),
      );
      const restarts = await Promise.all(all.map(async ({ id }) => [id, await this.#restartsOf(id)] as const));
      this.#restarts = new Map(restarts.flatMap(([id, count]) => (count === undefined ? [] : [[id, count] as const])));
    }
    return all;
  }

  async #restartsOf(id: string): Promise<number | undefined> {
    const { status, json } = await (this.#engine as Engine).get(`/containers/${id}/json`);
    const count = (json as { RestartCount?: unknown } | null)?.RestartCount;
    return status === 200 && typeof count === "number" ? count : undefined;
  }

  async #readContainer(
    one: EngineContainer,
    { slow, only }: { readonly slow: boolean; readonly only: ReadonlySet<string> | undefined },
    emit: Emit,
  ): Promise<void> {
    const tags = this.#tagsOf(one);
    const runs = one.state === "running";
    emit("container.state.running", tags, runs ? 1 : 0);
    if (one.healthy !== undefined) emit("container.healthy", tags, one.healthy ? 1 : 0);
    const size = this.#sizes.get(one.id);
    if (slow && size !== undefined) emit("container.filesystem.usage", tags, size);
    const restarts = this.#restarts.get(one.id);
    if (restarts !== undefined) emit("container.restarts", tags, restarts);
    if (!runs) return;
    const group = this.#groups.get(one.id);
    const given = new Set<string>();
    const fromGroup =
      group !== undefined &&
      this.#readGroup(group, tags, (counter, all, value) => {
        given.add(counter);
        emit(counter, all, value);
      });
    if (!this.#tells.may(fromGroup ? "engine beside groups" : "engine", only)) return;
    const { status, json } = await (this.#engine as Engine).get(
      `/containers/${one.id}/stats?stream=false&one-shot=true`,
    );
    if (status !== 200) return;
    readEngineStats(json, tags, (counter, all, value) => {
      if (fromGroup && given.has(counter)) return;
      if (!only) this.#tells.note(fromGroup ? "engine beside groups" : "engine", counter);
      emit(counter, all, value);
    });
  }

  #readGroup(group: ControlGroup, tags: Readonly<Record<string, string>>, emit: Emit): boolean {
    return this.#files !== undefined && readControlGroup(this.#files, group, tags, emit);
  }

  #tagsOf({ name, image, labels, command }: EngineContainer): Readonly<Record<string, string>> {
    const tags: Record<string, string> = { container: name, image };
    for (const label of this.#device.labels) if (labels[label] !== undefined) tags[`label.${label}`] = labels[label];
    if (this.#device.command) tags["command"] = command.slice(0, 200);
    return tags;
  }

  #count(all: readonly EngineContainer[], emit: Emit): void {
    const states = new Map<string, number>([
      ["running", 0],
      ["stopped", 0],
    ]);
    const images = new Map<string, Map<string, number>>();
    for (const { state, image } of all) {
      const word = stateWord(state);
      states.set(word, (states.get(word) ?? 0) + 1);
      const of = images.get(image) ?? new Map<string, number>();
      images.set(image, of.set(word, (of.get(word) ?? 0) + 1));
    }
    for (const [state, count] of states) emit("container.count", { state }, count);
    for (const [image, of] of images)
      for (const [state, count] of of) emit("container.image.count", { image, state }, count);
  }

  /** Engines' lists of past events leave some out: they are heard as they happen. */
  #follow(): void {
    if (this.#unfollow || !this.#engine) return;
    const filters = encodeURIComponent(JSON.stringify({ type: ["container"] }));
    this.#unfollow = this.#engine.follow(
      `/events?filters=${filters}`,
      (json) => {
        const event = parseEngineEvent(json);
        if (event && this.#events.length < mostEvents) this.#events.push(event);
      },
      () => {
        this.#unfollow = undefined; // taken up again with the next gathering
      },
    );
  }
}

/** Engines say `exited` or `stopped` for the same. */
function stateWord(state: string): string {
  return state === "exited" || state === "stopped" || state === "created" || state === "dead" ? "stopped" : state;
}
