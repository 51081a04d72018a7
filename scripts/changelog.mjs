/** The lines of the newest version in CHANGELOG.md, a change each, as plain text. Throws where there is none. */
export function newestChanges(text) {
  const [, newest] = text.split(/^## .*$/m);
  const lines = (newest ?? "")
    .split(/^- /m)
    .slice(1)
    .map((change) => change.split(/\n\n/)[0].replace(/\s+/g, " ").replace(/[*`]/g, "").trim());
  if (lines.length === 0) throw new Error("CHANGELOG.md has no change under its first version.");
  return lines;
}
