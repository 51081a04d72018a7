import type { Emit } from "../../counters/counter.ts";
import { emitTroubles } from "./troubles.ts";

/**
 * /proc/mdstat (md(4)): `[2/1] [U_]` are the wanted and present members; a line with resync, recovery, check or reshape
 * carries its share.
 * Arrays without redundancy have no such brackets and are well while they are active.
 */
export function readMdstat(text: string, emit: Emit): void {
  for (const lines of arraysOf(text)) {
    const block = lines.join("\n");
    const head = arrayHead.exec(block) as RegExpExecArray;
    const array = head[1] as string;
    const members = /\[(\d+)\/(\d+)\]/.exec(block);
    const failed = (block.match(/\(F\)/g) ?? []).length;
    emitTroubles(
      "storage.array",
      { array },
      {
        "failed member": failed > 0,
        "missing member": members !== null && members[1] !== members[2],
        "not active": head[2] !== "active",
      },
      emit,
    );
    if (members) {
      emit("storage.array.members", { array, state: "wanted" }, Number(members[1]));
      emit("storage.array.members", { array, state: "present" }, Number(members[2]));
    }
    if (failed > 0 || members) emit("storage.array.members", { array, state: "failed" }, failed);
    const size = lines.map((line) => /^\s+(\d+) blocks/.exec(line)?.[1]).find((found) => found !== undefined);
    if (size !== undefined) emit("storage.array.limit", { array }, Number(size) * 1024);
    const work = /(resync|recovery|check|reshape|repair)\s*=\s*([\d.]+)%/.exec(block);
    emit("storage.array.sync", { array }, work ? Number(work[2]) / 100 : 1);
  }
}

const arrayHead = /^(md\S+) : (\S+)/;

/** The lines of each array. */
function arraysOf(text: string): readonly (readonly string[])[] {
  const arrays: string[][] = [];
  for (const line of text.split("\n")) {
    if (arrayHead.test(line)) arrays.push([line]);
    else arrays.at(-1)?.push(line);
  }
  return arrays;
}
