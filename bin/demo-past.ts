import { OtlpReader } from "../core/formats/otlp/otlp-reader.ts";
import { readJsonRequest } from "../core/formats/otlp/otlp-json.ts";
import { findTableShape, type TableShape } from "../core/formats/csv/table-shape.ts";
import { TableReader } from "../core/formats/csv/table-reader.ts";
import { PageReader } from "../core/formats/exposition/page-reader.ts";
import type { Page } from "../core/pages/page.ts";
import type { FileSeries } from "../core/pages/file-series.ts";
import type { Reading } from "../core/counters/reading.ts";
import { readRedfish } from "../core/formats/power/redfish.ts";
import { readSnmp } from "../core/formats/snmp/read-snmp.ts";
import type { PickedNumber } from "../core/formats/snmp/picked-numbers.ts";
import { WholePower } from "../core/energy/whole-power.ts";
import { hostPower } from "../server/gather/whole-power-gatherer.ts";
import { ReadingsReader } from "../core/pages/readings-reader.ts";
import { ContainerGatherer } from "../server/gather/containers/container-gatherer.ts";
import { MachineGatherer } from "../server/gather/this-machine/machine-gatherer.ts";
import { deskLog } from "../standins/devices/desk-log.ts";
import { hiveController, hiveRequest } from "../standins/devices/hive.ts";
import { isLost, mastPage } from "../standins/devices/mast-page.ts";
import { gateState, upsState } from "../standins/devices/snmp-devices.ts";
import { tableOf } from "../standins/devices/snmp-table-of.ts";
import { StreamEngine, streamPage } from "../standins/devices/stream-host.ts";
import { vaultPage } from "../standins/devices/vault-page.ts";
import { PlayoutFiles } from "../standins/playout/playout-files.ts";
import type { World } from "../standins/world/world.ts";
import { containersDevice, gateNumbers, snmpModulesOf, type WorldSource } from "./demo-sources.ts";

const hour = 3600;
const day = 24 * hour;
export const pastSeconds = 30 * day;

/**
 * Reads what a device would have answered at a moment, with the product's own readers; undefined where nothing came.
 */
export interface PastReader {
  readonly series: readonly FileSeries[];
  read(second: number): Promise<Page | undefined>;
}

/** How far apart the past is gathered: the closer to now, and to the power cut, the closer. */
export function stepAt(second: number, world: World, now: number): number {
  if (now - second <= hour) return 15;
  if (now - second <= day || Math.abs(second - world.powerCut.from) < hour) return 60;
  return now - second <= 8 * day ? 300 : 600;
}

/** A reader for each source of the world. */
export function pastReaders(world: World): Readonly<Record<WorldSource, PastReader>> {
  let clock = 0;
  const files = new PlayoutFiles(world, () => clock * 1000);
  const machine = new MachineGatherer(files);
  const engine = new StreamEngine(world);
  const containers = new ContainerGatherer(
    containersDevice(""),
    { get: async (path) => ({ status: 200, json: engine.answer(path, clock) ?? null }), follow: () => () => {} },
    undefined,
  );
  const readings = (gather: (second: number) => Promise<readonly Reading[]> | readonly Reading[]): PastReader => {
    const reader = new ReadingsReader();
    const whole = new WholePower();
    return {
      series: reader.series,
      read: async (second) => {
        clock = second;
        const told = await gather(second);
        return reader.read([...told, ...hostPower(whole, told)], second * 1000);
      },
    };
  };
  const pages = (reader: PageReader, text: (second: number) => string | undefined): PastReader => ({
    series: reader.series,
    read: async (second) => {
      const said = text(second);
      return said === undefined ? undefined : atTime(reader.read(Buffer.from(said)), second * 1000);
    },
  });
  const controller = hiveController(world);
  const snmp = (device: "gate" | "ups", state: ReturnType<typeof gateState>, numbers: readonly PickedNumber[]) =>
    readings((second) => {
      const variables = state(second);
      const table = tableOf(variables);
      for (const { oid } of numbers)
        for (const bind of variables)
          if (bind.oid === oid) table.set(oid, "", { oid, type: bind.type === "Gauge" ? 66 : 2, value: bind.value });
      return readSnmp(table, snmpModulesOf(device), numbers).readings;
    });
  const mast = mastPage(world);
  const otlp = new OtlpReader(40);
  const hive = hiveRequest(world);
  const table = new TableReader();
  const log = deskLog(world);
  let shape: TableShape | undefined;
  return {
    playout: readings(() => machine.gather()),
    "mast relay": readings(boxAtTheMast(world)),
    gate: snmp("gate", gateState(world), gateNumbers),
    ups: snmp("ups", upsState(world), []),
    "hive controller": readings((second) => {
      const all: Reading[] = [];
      readRedfish(new Map(Object.entries(controller(second))), (counter, tags, value) =>
        all.push({ counter, tags, value }),
      );
      return all;
    }),
    hive: { series: otlp.series, read: async (second) => otlp.read(readJsonRequest(hive(second))).page },
    vault: pages(new PageReader("text"), vaultPage(world)),
    stream: pages(new PageReader("text"), streamPage(world)),
    "containers of stream": readings(async () => (await containers.gather()).readings),
    mast: pages(new PageReader("openmetrics"), (second) => (isLost(second) ? undefined : mast(second))),
    desk: {
      series: table.series,
      read: async (second) => {
        const text = log([second]);
        if (text === "") return undefined;
        shape ??= findTableShape(text)?.shape;
        return shape && table.read(text, shape);
      },
    },
  };
}

function atTime(page: Page, timeMs: number): Page {
  page.timeMs.fill(timeMs, 0, page.length);
  return page;
}

/** The box on which the relay at the mast runs tells how long it has been up. */
const boxAtTheMast =
  (world: World) =>
  (second: number): readonly Reading[] =>
    isLost(second) ? [] : [{ counter: "system.uptime", tags: {}, value: second - world.bootOf("mast", second) }];
