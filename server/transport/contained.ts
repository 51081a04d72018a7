import { existsSync } from "node:fs";

/** Whether this process runs in a container: engines leave a file or a variable by which that is told. */
export const isContained = (env: Readonly<Record<string, string | undefined>> = process.env): boolean =>
  existsSync("/run/.containerenv") || existsSync("/.dockerenv") || (env["container"] ?? "") !== "";
