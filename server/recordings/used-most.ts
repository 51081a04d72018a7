import type { UsedMost } from "../../core/api/recordings.ts";
import { namedSentences } from "../../core/recordings/recording.ts";
import { answerReading } from "../reading/answer-reading.ts";
import type { Store } from "../store/store.ts";
import type { RunRow } from "./run-rows.ts";

const most = 8;

/** The processes that took most processor time in a run, of the machines that its sentences name; of all where they name none. */
export async function usedMost(
  store: Store,
  { document, startedAtMs, endedAtMs }: Pick<RunRow, "document" | "startedAtMs" | "endedAtMs">,
  nowMs = Date.now(),
): Promise<readonly UsedMost[]> {
  const named = Object.values(namedSentences(document.sentences)).map(({ where = [] }) =>
    where.flatMap(({ tag, is }) => (tag === "machine" && is ? is : [])),
  );
  const machines = named.every((list) => list.length > 0) ? [...new Set(named.flat())] : undefined;
  const answer = await answerReading(store, {
    window: { from: startedAtMs, to: Math.max(startedAtMs + 1000, endedAtMs ?? nowMs) },
    points: 60,
    sums: true,
    sentences: {
      used: {
        counter: "process.cpu.time",
        ...(machines && { where: [{ tag: "machine", is: machines }] }),
        lines: { per: ["machine", "process"] },
        combine: "sum",
      },
    },
  });
  return answer.lines
    .flatMap(({ tags, sum }) =>
      sum && sum.value > 0
        ? [{ machine: tags["machine"] ?? "", process: tags["process"] ?? "", seconds: sum.value }]
        : [],
    )
    .sort((a, b) => b.seconds - a.seconds)
    .slice(0, most);
}
