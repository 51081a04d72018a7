import { existsSync } from "node:fs";
import { dirname, join } from "node:path";
import { fileURLToPath } from "node:url";

/** The folder that holds package.json; the code runs from `dist/` when built and from its source in tests. */
export const projectRoot: string = (() => {
  let folder = dirname(fileURLToPath(import.meta.url));
  while (!existsSync(join(folder, "package.json"))) {
    const parent = dirname(folder);
    if (parent === folder) throw new Error(`no package.json above ${fileURLToPath(import.meta.url)}`);
    folder = parent;
  }
  return folder;
})();
