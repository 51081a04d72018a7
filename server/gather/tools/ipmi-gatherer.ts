import type { Reading } from "../../../core/counters/reading.ts";
import { readDcmiPower, readIpmiSensors } from "../../../core/formats/power/ipmi-sensors.ts";
import type { Credentials } from "../../../core/sources/source.ts";
import type { IpmiDevice } from "../../../core/sources/kinds/ipmi.ts";
import type { DeviceGatherer, Gathered } from "../device-gatherer.ts";
import { PullError } from "../../transport/pull-error.ts";
import { speaksIpmi } from "./ipmi-presence.ts";
import { runTool } from "./run-tool.ts";

/**
 * Asks a management controller by IPMI 2.0. The password goes by the environment: command lines are seen by everybody
 * on a machine.
 */
export class IpmiGatherer implements DeviceGatherer {
  readonly #closing = new AbortController();
  readonly #device: IpmiDevice;
  readonly #user: string;
  readonly #password: string;
  /** Not every controller has the power reading of DCMI; one that has refused it is not asked again. */
  #hasDcmi = true;
  /**
   * 17 signs with SHA-256, 3 with SHA-1: older controllers have only that. To let ipmitool ask for the list costs
   * seconds where there is no answer.
   */
  #suite: "17" | "3" = "17";

  constructor(device: IpmiDevice, credentials: Credentials) {
    this.#device = device;
    this.#user = credentials.kind === "basic" ? credentials.user : "";
    this.#password = credentials.kind === "basic" ? credentials.password : "";
  }

  async gather(): Promise<Gathered> {
    const readings: Reading[] = [];
    const emit = (counter: string, tags: Reading["tags"], value: number) =>
      void readings.push({ counter, tags, value });
    let raw = await this.#ask("-c", "sdr", "list", "full");
    const found = readIpmiSensors(raw, emit);
    if (found === 0)
      throw new PullError(
        "not the format",
        "The controller answered, and told of no sensors.",
        "Look at the text as received; the user may need the right to read sensors.",
      );
    if (this.#hasDcmi) {
      const power = await this.#ask("dcmi", "power", "reading").catch(() => "");
      this.#hasDcmi = readDcmiPower(power, emit);
      raw += power;
    }
    return { readings, raw, rawType: "text/csv" };
  }

  async close(): Promise<void> {
    this.#closing.abort(); // what runs may wait for a device that does not answer
  }

  async #ask(...what: string[]): Promise<string> {
    const { host, port, timeoutMs } = this.#device;
    const tries = ["-N", String(Math.max(1, Math.round(timeoutMs / 8000))), "-R", "2", "-C", this.#suite];
    const { code, out, err } = await runTool(
      "ipmitool",
      ["-I", "lanplus", "-H", host, "-p", String(port), "-U", this.#user, "-E", ...tries, ...what],
      {
        timeoutMs: Math.max(timeoutMs * 3, 20_000),
        env: { IPMI_PASSWORD: this.#password },
        signal: this.#closing.signal,
      },
    );
    if (code === 0) return out;
    if (
      this.#suite === "17" &&
      /invalid authentication algorithm|invalid integrity|no matching|cipher suite/i.test(err)
    ) {
      this.#suite = "3";
      return await this.#ask(...what);
    }
    const error = ipmiError(err, `${host}:${port}`);
    if (error.kind === "no answer" && (await speaksIpmi(host, port, Math.min(timeoutMs, 3000)))) {
      throw new PullError(
        "wrong credentials",
        `A controller answers at ${host}:${port}, and no session with it came about: the user or the password is wrong, or the user may not sign in over the network.`,
        "Enter user and password anew (20 signs at most in IPMI 2.0), and look on the controller whether this user may use IPMI over LAN.",
        { cause: error },
      );
    }
    throw error;
  }
}

/**
 * What ipmitool's words mean. It says the same of a wrong password and of silence, except where the controller has
 * answered first.
 */
export function ipmiError(err: string, place: string): PullError {
  const last = err.trim().split("\n").at(-1) ?? "";
  if (/Address lookup|getaddrinfo|Could not open socket/i.test(err))
    return new PullError(
      "name unknown",
      `No address is known for ${place}.`,
      "Check the spelling, or use the address in numbers.",
    );
  if (
    /RAKP 2 HMAC is invalid|RAKP 2 message indicates an error : (unauthorized name|invalid)|unauthorized name/i.test(
      err,
    )
  )
    return new PullError(
      "wrong credentials",
      "The controller does not know this user, or the password is wrong.",
      "Enter them anew. Passwords of IPMI 2.0 have 20 signs at most.",
    );
  if (/insufficient privilege/i.test(err))
    return new PullError(
      "not allowed",
      "The user may not read sensors.",
      "Give it the right of an operator or of a user over the network on the controller.",
    );
  if (/cipher suite/i.test(err) && /no matching|unsupported/i.test(err))
    return new PullError(
      "refused",
      "The controller and ipmitool have no cipher suite in common.",
      "Allow suite 3 or 17 on the controller.",
    );
  if (/Unable to establish IPMI v2/i.test(err)) {
    return new PullError(
      "no answer",
      `No session with ${place} came about. Nothing there answers IPMI at all: it is off over the network, this machine's address is not allowed there, or nobody has this address.`,
      "Look on the controller whether IPMI over LAN is on, on which port, and which addresses it lets in.",
    );
  }
  return new PullError(
    "failed",
    `ipmitool failed: ${last.slice(0, 300)}`,
    "Look at the controller; it may have to be restarted.",
  );
}
