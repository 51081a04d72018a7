import { TableReader } from "../../core/formats/csv/table-reader.ts";
import { tableText } from "../../core/formats/csv/table-text.ts";
import type { TableShape } from "../../core/formats/csv/table-shape.ts";
import type { Page } from "../../core/pages/page.ts";
import type { FileSeries } from "../../core/pages/file-series.ts";
import { utf8Text } from "../../core/text/utf8.ts";
import { readJsonRequest } from "../../core/formats/otlp/otlp-json.ts";
import { OtlpError } from "../../core/formats/otlp/otlp-messages.ts";
import { readProtobufRequest } from "../../core/formats/otlp/otlp-protobuf.ts";
import { OtlpReader } from "../../core/formats/otlp/otlp-reader.ts";
import { workKind } from "../work/work-kind.ts";

/** A whole body that is read away from the thread that answers everybody. */
export interface ReadBodyTask {
  readonly bytes: Uint8Array;
  readonly as:
    | { readonly format: "otlp-json" | "otlp-protobuf" }
    | { readonly format: "csv"; readonly shape: TableShape; readonly charset?: string | undefined };
  readonly tags: number;
  readonly newSeries: number;
}

/** What a body says, with the series that its page's numbers are of. */
export interface ReadBody {
  readonly series: readonly FileSeries[];
  readonly help: ReadonlyMap<string, string>;
  readonly page: Page;
  /** Data points that could not be taken. */
  readonly rejected: number;
}

export const readBodyKind = workKind<ReadBodyTask, ReadBody>("read-body", ({ bytes }) =>
  bytes.buffer instanceof ArrayBuffer && bytes.byteLength === bytes.buffer.byteLength ? [bytes.buffer] : [],
);

/**
 * Reads a body with a reader of its own. Deltas of OTLP begin at 0 with every body so, which readers take for a
 * restart, as after a restart of the server. Throws TextError, OtlpError.
 */
export function readBody({ bytes, as, tags, newSeries }: ReadBodyTask): ReadBody {
  switch (as.format) {
    case "csv": {
      const { text } = tableText(bytes, as.charset);
      const reader = new TableReader(newSeries);
      return { page: reader.read(text, as.shape), series: reader.series, help: reader.help, rejected: 0 };
    }
    case "otlp-json":
    case "otlp-protobuf": {
      const reader = new OtlpReader(tags, newSeries);
      const { page, rejected } = reader.read(
        as.format === "otlp-protobuf" ? readProtobufRequest(bytes) : readJsonRequest(textOfJson(bytes)),
      );
      return { page, series: reader.series, help: reader.help, rejected };
    }
  }
}

function textOfJson(bytes: Uint8Array): string {
  const text = utf8Text(bytes);
  if (text === undefined) throw new OtlpError("this is not UTF-8 text");
  return text;
}
