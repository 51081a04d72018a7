import { readFileSync } from "node:fs";
import { join } from "node:path";
import { projectRoot } from "./project-root.ts";

export const version: string = (
  JSON.parse(readFileSync(join(projectRoot, "package.json"), "utf8")) as { version: string }
).version;
