/**
 * A counter's path as Windows' tools write it: \\MACHINE\Category(instance)\Counter; the machine is left out for one's
 * own.
 */
export interface CounterPath {
  readonly machine: string | undefined;
  readonly category: string;
  readonly instance: string | undefined;
  readonly counter: string;
}

const form = /^(?:\\\\([^\\]+))?\\(.+)\\([^\\]+)$/;

/** Undefined for what is no path. */
export function counterPath(text: string): CounterPath | undefined {
  const found = form.exec(text.trim());
  if (!found) return undefined;
  const [, machine, object, counter] = found as unknown as [string, string | undefined, string, string];
  const open = object.endsWith(")") ? object.indexOf("(") : -1;
  return {
    machine,
    category: open < 0 ? object : object.slice(0, open),
    instance: open < 0 ? undefined : object.slice(open + 1, -1),
    counter,
  };
}

export function pathText({ machine, category, instance, counter }: CounterPath): string {
  return `${machine === undefined ? "" : `\\\\${machine}`}\\${category}${instance === undefined ? "" : `(${instance})`}\\${counter}`;
}
