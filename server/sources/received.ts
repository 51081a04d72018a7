import type { IntakeLimits } from "../../core/sources/intake-limits.ts";
import { TableReader } from "../../core/formats/csv/table-reader.ts";
import { tableText } from "../../core/formats/csv/table-text.ts";
import { findTableShape, type TableShape } from "../../core/formats/csv/table-shape.ts";
import { PageReader } from "../../core/formats/exposition/page-reader.ts";
import { utf8Text } from "../../core/text/utf8.ts";
import { readJsonRequest } from "../../core/formats/otlp/otlp-json.ts";
import { OtlpReader } from "../../core/formats/otlp/otlp-reader.ts";
import type { Page } from "../../core/pages/page.ts";
import { TextError } from "../../core/pages/text-error.ts";
import type { SeriesReader } from "./source-run.ts";

export type ReceivedFormat = "openmetrics" | "text" | "otlp" | "csv";

/** What a text was received as, by its content type. */
export function formatOf(contentType: string): ReceivedFormat {
  if (/openmetrics-text/i.test(contentType)) return "openmetrics";
  if (/json/i.test(contentType)) return "otlp";
  return /csv/i.test(contentType) ? "csv" : "text";
}

/** Reads a text as it was received, with readers of its own: to show what it gives. Throws TextError, OtlpError. */
export function readReceived(
  bytes: Uint8Array,
  format: ReceivedFormat,
  limits: IntakeLimits,
  shape: TableShape | null,
): { readonly reader: SeriesReader; readonly page: Page } {
  switch (format) {
    case "openmetrics":
    case "text": {
      const reader = new PageReader(format, {
        lineBytes: limits.lineBytes,
        tags: limits.tags,
        newSeries: limits.seriesPerSource,
      });
      return { reader, page: reader.read(bytes) };
    }
    case "otlp": {
      const reader = new OtlpReader(limits.tags);
      return { reader, page: reader.read(readJsonRequest(textOf(bytes))).page };
    }
    case "csv": {
      const reader = new TableReader();
      const { text } = tableText(bytes);
      const found = shape ?? findTableShape(text)?.shape;
      if (!found) throw new TextError("no column of times was found", 1);
      return { reader, page: reader.read(text, found) };
    }
  }
}

/** Throws TextError for what is not UTF-8. */
function textOf(bytes: Uint8Array): string {
  const text = utf8Text(bytes);
  if (text === undefined) throw new TextError("this is not UTF-8 text", 1);
  return text;
}
