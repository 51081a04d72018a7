import type { DeviceGatherer, Gathered } from "../device-gatherer.ts";
import type { OwnReadings } from "../itself/own-readings.ts";
import type { MachineFiles } from "./machine-files.ts";
import { MachineGatherer } from "./machine-gatherer.ts";
import type { MachineTools } from "./machine-tools.ts";

/** Of each process one file is read: they are many, and told in the counters already. */
const ofProcess = /^\/proc\/\d+\//;

/** The machine that the server runs on, and what the server itself takes and does, gathered as any device is. */
export class OwnMachine implements DeviceGatherer {
  readonly #machine: MachineGatherer;
  readonly #itself: OwnReadings;
  /** What was read in the gathering that runs. */
  #read: string[] = [];

  /** `tools` are left out where the files are not this machine's own. */
  constructor(files: MachineFiles, itself: OwnReadings, tools?: MachineTools) {
    const noted: MachineFiles = {
      read: (path) => {
        const text = files.read(path);
        if (text !== undefined && !ofProcess.test(path)) this.#read.push(`${path}\n${text}`);
        return text;
      },
      list: (path) => files.list(path),
      space: (path) => files.space(path),
    };
    this.#machine = new MachineGatherer(noted, tools);
    this.#itself = itself;
  }

  async gather(_nowMs?: number, only?: ReadonlySet<string>): Promise<Gathered> {
    this.#read = [];
    const [machine, itself] = await Promise.all([this.#machine.gather(only), this.#itself.gather(only)]);
    return { readings: [...machine, ...itself], raw: this.#read.join("\n"), rawType: "text/plain" };
  }

  async close(): Promise<void> {}
}
