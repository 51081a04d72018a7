import type { Reading } from "../../../core/counters/reading.ts";
import { readUpsc } from "../../../core/formats/power/upsc.ts";
import type { UpsDevice } from "../../../core/sources/kinds/ups.ts";
import type { DeviceGatherer, Gathered } from "../device-gatherer.ts";
import { PullError } from "../../transport/pull-error.ts";
import { runTool } from "./run-tool.ts";

/** Asks a power supply through upsc, where its program runs on a machine. */
export class UpsGatherer implements DeviceGatherer {
  readonly #closing = new AbortController();
  readonly #device: UpsDevice;

  constructor(device: UpsDevice) {
    this.#device = device;
  }

  async gather(): Promise<Gathered> {
    const { ups, host, port, timeoutMs } = this.#device;
    const { code, out, err } = await runTool("upsc", [`${ups}@${host}:${port}`], {
      timeoutMs,
      debianPackage: "nut-client",
      signal: this.#closing.signal,
    });
    if (code !== 0) throw upsError(err, this.#device);
    const readings: Reading[] = [];
    if (readUpsc(out, (counter, tags, value) => readings.push({ counter, tags, value })) === 0)
      throw new PullError(
        "not the format",
        "The answer has no line that is understood.",
        "Look at the text as received.",
      );
    return { readings, raw: out, rawType: "text/plain" };
  }

  async close(): Promise<void> {
    this.#closing.abort(); // what runs may wait for a device that does not answer
  }
}

/** What upsc's words mean. */
export function upsError(err: string, { ups, host, port }: Pick<UpsDevice, "ups" | "host" | "port">): PullError {
  if (/Unknown UPS/i.test(err))
    return new PullError(
      "wrong path",
      `The program at ${host} knows no supply called ${ups}.`,
      `See what it knows: upsc -l ${host}`,
    );
  if (/Driver not connected/i.test(err))
    return new PullError(
      "refused",
      `The program at ${host} knows ${ups}, but its driver does not run.`,
      "Start the driver on that machine; a loose cable is the usual reason.",
    );
  if (/Data stale/i.test(err))
    return new PullError(
      "refused",
      `What ${host} knows of ${ups} is old: its driver no longer hears the supply.`,
      "Look at the cable between supply and machine.",
    );
  if (/Connection refused/i.test(err))
    return new PullError(
      "nothing listens",
      `Nothing listens at ${host}:${port}.`,
      "Start the supply's network program there and let it listen on more than 127.0.0.1.",
    );
  if (/No such host|resolve/i.test(err))
    return new PullError(
      "name unknown",
      `No address is known for the name ${host}.`,
      "Check the spelling, or use the address in numbers.",
    );
  if (/Access denied/i.test(err))
    return new PullError(
      "not allowed",
      `${host} does not let this machine ask.`,
      "Add this machine's address to its access list.",
    );
  return new PullError(
    "failed",
    `upsc failed: ${err.trim().split("\n").at(-1)?.slice(0, 300) ?? ""}`,
    "Look at the machine to which the supply is connected.",
  );
}
