import type { Emit } from "../../counters/counter.ts";
import { emitTroubles } from "./troubles.ts";
import { jsonOf, listIn, objectIn } from "./json-report.ts";

/** ATA attributes that come before a failure (ATA/ATAPI leaves them to makers; common practice). */
const ataSectors: Readonly<Record<number, string>> = { 5: "reallocated", 197: "pending", 198: "uncorrectable" };
/** NVMe base specification: a data unit is a thousand blocks of 512 bytes. */
const bytesPerDataUnit = 512_000;

/**
 * `smartctl --json --health --attributes DEVICE`. What is no such report gives nothing. A drive is unwell that says so
 * itself, of which an attribute stands at its threshold now
 * (smartctl(8), bits 3 and 4 of its exit status), or whose critical warning is not 0 (NVMe base specification 1.4,
 * figure 194).
 */
export function readSmartctl(text: string, device: string, emit: Emit): void {
  const report = jsonOf(text);
  const give = (counter: string, value: unknown, tags: Readonly<Record<string, string>> = {}, factor = 1) => {
    if (typeof value === "number" && Number.isFinite(value))
      emit(
        counter,
        { ...(counter === "hw.temperature" ? { sensor: `drive ${device}` } : { device }), ...tags },
        value * factor,
      );
  };
  const attributes = listIn(objectIn(report, "ata_smart_attributes"), "table");
  const nvme = objectIn(report, "nvme_smart_health_information_log");
  const { passed } = objectIn(report, "smart_status");
  const warning = nvme["critical_warning"];
  if (typeof passed === "boolean" || typeof warning === "number")
    emitTroubles(
      "drive",
      { device },
      {
        "its own verdict": passed === false,
        "attribute at its threshold": attributes.some((row) => row["when_failed"] === "now"),
        "critical warning": typeof warning === "number" && warning !== 0,
      },
      emit,
    );
  give("hw.temperature", objectIn(report, "temperature")["current"]);
  give("drive.power_on_time", objectIn(report, "power_on_time")["hours"], {}, 3600);
  for (const row of attributes) {
    const type = ataSectors[Number(row["id"])];
    if (type !== undefined) give("drive.bad_sectors", objectIn(row, "raw")["value"], { type });
  }
  give("drive.wear", nvme["percentage_used"], {}, 0.01);
  give("drive.media_errors", nvme["media_errors"]);
  give("drive.written", nvme["data_units_written"], {}, bytesPerDataUnit);
}

/** Devices of `smartctl --scan --json`; none in what is no such report. */
export function drivesOfScan(text: string): readonly { readonly name: string; readonly type: string }[] {
  return listIn(jsonOf(text), "devices").flatMap(({ name, type }) =>
    typeof name === "string" && typeof type === "string" ? [{ name, type }] : [],
  );
}
