/** Names of fields whose values open something. */
const secretName =
  /password|secret|recovery|^uri$|token|^code$|^now$|^next$|credential|private|authorization|header|community|key$|signature|^url$|url$/i;
const notKept = "(not kept)";
const mostDepth = 12;

/** A value as it may be written down: what opens something is left out by the name of its field. */
export function withoutSecrets(value: unknown, depth = 0): unknown {
  if (typeof value !== "object" || value === null) return value;
  if (depth >= mostDepth) return "(deeper)";
  if (Array.isArray(value)) return value.map((one) => withoutSecrets(one, depth + 1));
  return Object.fromEntries(
    Object.entries(value).map(([name, one]) => [
      name,
      secretName.test(name) && one !== null && one !== "" && typeof one !== "boolean"
        ? notKept
        : withoutSecrets(one, depth + 1),
    ]),
  );
}
