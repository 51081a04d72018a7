import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useId, useState } from "react";
import { pauseSource, type SourceView } from "../../../../core/api/sources.ts";
import { call } from "../../api/client.ts";

const spans = [
  ["15 min", 900_000],
  ["1 h", 3_600_000],
  ["4 h", 14_400_000],
  ["1 day", 86_400_000],
  ["7 days", 604_800_000],
  ["31 days", 2_678_400_000],
] as const;

/** Pauses a source for a while, with why; the pause ends by itself. */
export function PauseForm({ source, onClose }: { source: SourceView; onClose: () => void }): ReactNode {
  const queries = useQueryClient();
  const [why, setWhy] = useState("");
  const head = useId();
  const pause = useMutation({
    // Less a moment: the longest span is the longest that the server takes.
    mutationFn: (forMs: number) => call(pauseSource, { id: source.id }, { untilMs: Date.now() + forMs - 1000, why }),
    onSuccess: async () => {
      await Promise.all([
        queries.invalidateQueries({ queryKey: ["sources"] }),
        queries.invalidateQueries({ queryKey: ["machines"] }),
      ]);
      onClose();
    },
  });
  return (
    <section aria-labelledby={head} className="my-2 border-l-2 border-act py-1 pl-4">
      <p id={head}>
        Nothing is taken of {source.name}, and where all sources of {source.machine} are paused nobody is told of it.
        Afterwards it goes on by itself.
      </p>
      <label className="mt-2 block max-w-xl">
        <span className="block text-[13px] text-quiet">Why</span>
        <input maxLength={2000} value={why} onChange={(event) => setWhy(event.target.value)} className="w-full" />
      </label>
      <p className="mt-2 flex flex-wrap items-baseline gap-x-4 gap-y-1">
        <span className="text-quiet">pause it for</span>
        {spans.map(([words, ms]) => (
          <button
            key={ms}
            type="button"
            className="word-link"
            disabled={pause.isPending}
            onClick={() => pause.mutate(ms)}
            aria-label={`pause it for ${words}`}
          >
            {words}
          </button>
        ))}
        <button type="button" className="act-plain" onClick={onClose}>
          Leave it
        </button>
      </p>
      {pause.error && (
        <p role="alert" className="text-urgent">
          {pause.error.message}
        </p>
      )}
    </section>
  );
}
