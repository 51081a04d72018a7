import { mkdirSync } from "node:fs";
import { join } from "node:path";
import { build } from "rolldown";
import { projectRoot } from "../project-root.ts";

/** Bundles a file of tests so that Node runs it as a process of its own; gives the path. */
export async function bundled(name: string): Promise<string> {
  const dir = join(projectRoot, "dist/testing");
  mkdirSync(dir, { recursive: true });
  await build({
    input: { [name]: join(projectRoot, `server/testing/${name}.ts`) },
    platform: "node",
    external: [/^node:/, /^[^./]/],
    output: { dir, format: "esm" },
    logLevel: "silent",
  });
  return join(dir, `${name}.js`);
}
