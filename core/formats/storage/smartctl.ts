import type { Emit } from "../../counters/counter.ts";

interface SmartReport {
  readonly smart_status?: { readonly passed?: boolean };
  readonly temperature?: { readonly current?: number };
  readonly power_on_time?: { readonly hours?: number };
  readonly ata_smart_attributes?: { readonly table?: readonly { readonly id: number; readonly raw?: { readonly value?: number } }[] };
  readonly nvme_smart_health_information_log?: { readonly percentage_used?: number; readonly media_errors?: number; readonly data_units_written?: number; readonly available_spare?: number };
}

/** ATA attributes that come before a failure (ATA/ATAPI leaves them to makers; common practice). */
const ataSectors: Readonly<Record<number, string>> = { 5: "reallocated", 197: "pending", 198: "uncorrectable" };
/** NVMe base specification: a data unit is a thousand blocks of 512 bytes. */
const bytesPerDataUnit = 512_000;

/** `smartctl --json --health --attributes DEVICE`. Throws SyntaxError on what is no JSON. */
export function readSmartctl(text: string, device: string, emit: Emit): void {
  const report = JSON.parse(text) as SmartReport;
  const give = (counter: string, value: number | undefined, tags: Readonly<Record<string, string>> = {}) => {
    if (typeof value === "number" && Number.isFinite(value)) emit(counter, { ...(counter === "hw.temperature" ? { sensor: `drive ${device}` } : { device }), ...tags }, value);
  };
  if (typeof report.smart_status?.passed === "boolean") give("drive.healthy", report.smart_status.passed ? 1 : 0);
  give("hw.temperature", report.temperature?.current);
  give("drive.power_on_time", report.power_on_time?.hours === undefined ? undefined : report.power_on_time.hours * 3600);
  for (const { id, raw } of report.ata_smart_attributes?.table ?? []) {
    const type = ataSectors[id];
    if (type !== undefined) give("drive.bad_sectors", raw?.value, { type });
  }
  const nvme = report.nvme_smart_health_information_log;
  give("drive.wear", nvme?.percentage_used === undefined ? undefined : nvme.percentage_used / 100);
  give("drive.media_errors", nvme?.media_errors);
  give("drive.written", nvme?.data_units_written === undefined ? undefined : nvme.data_units_written * bytesPerDataUnit);
}

/** Devices of `smartctl --scan --json`. */
export function drivesOfScan(text: string): readonly { readonly name: string; readonly type: string }[] {
  return (JSON.parse(text) as { devices?: readonly { name: string; type: string }[] }).devices ?? [];
}
