import { type Dashboard, dashboardFormat, dashboardVersion } from "./dashboard.ts";
import { unknownFields } from "../forms/form.ts";
import { dashboardForm } from "./dashboard-form.ts";

/** A dashboard's file before it is taken: what it is, and which of its fields have no effect here. */
export interface ReadFile {
  readonly document: Dashboard;
  /** Kept, but not known to this version. */
  readonly unknown: readonly string[];
}

/**
 * Reads a dashboard's file. It is data only: nothing in it is run, and the server checks every field before it is kept.
 * Throws a sentence
 * that says what is wrong.
 */
export function readDashboardFile(text: string): ReadFile {
  let read: Partial<Dashboard> | null;
  try {
    read = JSON.parse(text);
  } catch (error) {
    throw new Error(`This is not JSON: ${(error as Error).message}.`);
  }
  if (typeof read !== "object" || read === null || Array.isArray(read))
    throw new Error("This is JSON, but no dashboard: it must be an object.");
  if (read.format !== dashboardFormat)
    throw new Error(`"format" is ${JSON.stringify(read.format)}; a dashboard's file has "${dashboardFormat}".`);
  if (typeof read.version !== "number" || read.version > dashboardVersion)
    throw new Error(
      `"version" is ${JSON.stringify(read.version)}; this Nubrel understands ${dashboardVersion}. Update it first.`,
    );
  if (typeof read.title !== "string" || !Array.isArray(read.tiles))
    throw new Error('"title" (a text) and "tiles" (a list) must be there.');
  return { document: read as Dashboard, unknown: unknownFields(dashboardForm, read) };
}

/** The file of a dashboard, for people to read as well. */
export function writeDashboardFile(document: Dashboard): string {
  return `${JSON.stringify(document, null, 2)}\n`;
}
