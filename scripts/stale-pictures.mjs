import { execFileSync } from "node:child_process";

/** What stands in every picture: masthead, rail, letters and colours. */
const everywhere = ["web/src/frame", "web/src/styles.css"];

/**
 * The pictures that are older than the code of their view, or than what stands around every view.
 * @param {readonly { name: string, of: readonly string[] }[]} pictures `of`: folders of the view's code
 * @param {(paths: readonly string[]) => number} changedAt when the newest of some paths was changed last, s; 0 where none was
 * @returns {{ name: string, by: string }[]} the picture, and the path that changed after it
 */
export function stalePictures(pictures, changedAt) {
  return pictures.flatMap(({ name, of }) => {
    const taken = changedAt([`docs/screenshots/${name}.png`]);
    const by = [...of, ...everywhere].find((path) => changedAt([path]) > taken);
    return by === undefined ? [] : [{ name, by }];
  });
}

/** When paths were last committed, s. Throws where the folder is no checkout. */
export const committedAt = (root) => (paths) =>
  Number(
    execFileSync("git", ["log", "-1", "--format=%ct", "--", ...paths], { cwd: root, encoding: "utf8" }).trim() || 0,
  );
