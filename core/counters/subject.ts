/** The subjects under which counters are listed, by how their names begin; the longest beginning decides. */
const subjects: readonly (readonly [begins: string, subject: string])[] = [
  ["system.cpu", "Processor"],
  ["system.pressure", "Processor"],
  ["system.memory", "Memory"],
  ["system.paging", "Memory"],
  ["system.disk", "Disks"],
  ["system.filesystem", "Filesystems"],
  ["system.network", "Network"],
  ["system.process", "Processes"],
  ["process", "Processes"],
  ["container", "Containers"],
  ["guest", "Guests"],
  ["storage", "Storage"],
  ["drive", "Drives"],
  ["hw", "Hardware and power"],
  ["ups", "Hardware and power"],
  ["system", "System"],
];

/** The subject of a counter; for names that nobody has sorted, their first part. */
export function subjectOf(counter: string): string {
  const found = subjects
    .filter(([begins]) => counter === begins || counter.startsWith(`${begins}.`))
    .sort(([a], [b]) => b.length - a.length)[0];
  if (found) return found[1];
  const first = counter.split(/[._]/)[0] ?? counter;
  return first.charAt(0).toUpperCase() + first.slice(1);
}
