import type { Reading } from "../../../core/counters/reading.ts";
import { FlowReader } from "../../../core/formats/flow/flow-reader.ts";
import type { FlowDevice } from "../../../core/sources/kinds/flow.ts";
import type { DeviceGatherer, Gathered } from "../device-gatherer.ts";
import { PullError } from "../../transport/pull-error.ts";
import { listenForFlows } from "./flow-receiver.ts";

/** A router that sends nothing for so long has stopped, however seldom it sends. */
const quietMs = 300_000;

/** Adds up the flows that a router sends, and tells the totals when it is asked. */
export class FlowGatherer implements DeviceGatherer {
  readonly #device: FlowDevice;
  readonly #reader = new FlowReader();
  #leaving: Promise<() => void> | undefined;
  #lastMs = 0;
  #from = "";
  readonly #others = new Set<string>();
  #wake: (() => void) | undefined;

  constructor(device: FlowDevice) {
    this.#device = device;
  }

  /** Throws PullError where the port cannot be had, or nothing came. */
  async gather(nowMs: number): Promise<Gathered> {
    await this.#listen();
    if (this.#reader.records === 0) await this.#wait();
    const place = `UDP port ${this.#device.port}`;
    if (this.#reader.records === 0) {
      const strangers = [...this.#others].slice(0, 5).join(", ");
      const left = [...this.#reader.takeLeftOut().keys()].join("; ");
      if (strangers !== "")
        throw new PullError(
          "not allowed",
          `Flows come to ${place} from ${strangers}, and not from ${this.#device.from}.`,
          "Enter the address from which the router sends: it may have several.",
        );
      if (left !== "")
        throw new PullError(
          "not the format",
          `What came to ${place} could not be understood yet: ${left}.`,
          "Templates come every minute or so: wait a little. If it stays, set the router to IPFIX or version 9.",
        );
      throw new PullError(
        "no answer",
        `No flows have come to ${place} yet.`,
        "Enter this machine's address and the port at the router, as the collector of IPFIX or version 9; let the port in where a firewall stands between.",
      );
    }
    if (nowMs - this.#lastMs > quietMs)
      throw new PullError(
        "no answer",
        `No flows have come to ${place} for ${Math.round((nowMs - this.#lastMs) / 60_000)} min.`,
        "Look whether the router still sends them.",
      );
    const readings: Reading[] = [];
    this.#reader.emit((counter, tags, value) => readings.push({ counter, tags, value }));
    return {
      readings,
      leftOut: this.#reader.takeLeftOut(),
      raw: `${this.#reader.records} records from ${this.#from}\n${readings.map(({ tags, value }) => `${tags["interface"]} ${tags["direction"]} ${tags["protocol"]}/${tags["transport"]}: ${Math.round(value)} bytes`).join("\n")}\n`,
      rawType: "text/plain",
    };
  }

  async close(): Promise<void> {
    (await this.#leaving?.catch(() => undefined))?.();
  }

  async #listen(): Promise<void> {
    const { host, port, from } = this.#device;
    this.#leaving ??= listenForFlows(host, port, (datagram, sender) => {
      if (from !== "" && sender !== from) {
        if (this.#others.size < 20) this.#others.add(sender);
        return;
      }
      this.#reader.read(datagram);
      this.#from = sender;
      this.#lastMs = Date.now();
      if (this.#reader.records > 0) this.#wake?.();
    });
    try {
      await this.#leaving;
    } catch (error) {
      this.#leaving = undefined;
      const code = (error as { code?: string }).code;
      throw new PullError(
        "refused",
        `Nubrel cannot listen at ${host}, UDP port ${port}: ${code === "EADDRINUSE" ? "another program does" : code === "EACCES" ? "this account may not" : code === "EADDRNOTAVAIL" ? "this machine has no such address" : String(code)}.`,
        code === "EACCES" ? "Use a port above 1023." : "Choose another port or address, here and at the router.",
        { cause: error },
      );
    }
  }

  /** For the first records: an exporter sends its templates now and then only. */
  #wait(): Promise<void> {
    return new Promise((resolve) => {
      const timer = setTimeout(resolve, this.#device.timeoutMs);
      this.#wake = () => {
        clearTimeout(timer);
        this.#wake = undefined;
        resolve();
      };
    });
  }
}
