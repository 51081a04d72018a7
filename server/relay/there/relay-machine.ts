import type { DeviceGatherer, Gathered } from "../../gather/device-gatherer.ts";
import { type MachineFiles, machineFiles } from "../../gather/this-machine/machine-files.ts";
import { MachineGatherer } from "../../gather/this-machine/machine-gatherer.ts";
import { MachineTools } from "../../gather/this-machine/machine-tools.ts";

/** The machine that a relay runs on, gathered as a server gathers its own. */
export class RelayMachine implements DeviceGatherer {
  readonly #machine: MachineGatherer;

  constructor(files?: MachineFiles) {
    this.#machine = files ? new MachineGatherer(files) : new MachineGatherer(machineFiles(), new MachineTools());
  }

  async gather(_nowMs: number, only?: ReadonlySet<string>): Promise<Gathered> {
    const readings = await this.#machine.gather(only);
    const raw = readings.map(({ counter, tags, value }) => `${counter} ${JSON.stringify(tags)} ${value}`).join("\n");
    return { readings, raw, rawType: "text/plain" };
  }

  async close(): Promise<void> {}
}
