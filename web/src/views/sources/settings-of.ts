import type { SourceView } from "../../../../core/api/sources.ts";
import type { SourceSettings } from "../../../../core/sources/source.ts";

/** The part of a source that a person can change, as the server takes it back. */
export function settingsOf({
  name,
  machine,
  intervalMs,
  tellsSilence,
  address,
  trust,
  device,
  tags,
  take,
  csv,
  lateMs,
  backDays,
  askedFrom,
}: SourceView): SourceSettings {
  return {
    name,
    machine,
    intervalMs,
    tellsSilence,
    address,
    trust,
    device,
    tags,
    take,
    csv,
    lateMs: lateMs ?? null,
    backDays: backDays ?? 1,
    askedFrom: askedFrom ?? null,
  };
}
