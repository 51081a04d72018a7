import { useQuery } from "@tanstack/react-query";
import { type ReactNode, useMemo } from "react";
import { SectionLink } from "../../time/section-link.tsx";
import type { Span } from "../../time/time-window.ts";
import { askDifferences } from "./ask-differences.ts";

const mostSaid = 4;
const longestMs = 7 * 86_400_000;

/** What was different in a span, in its first sentences, with the way to all of it. */
export function DifferedSentences({ fromMs, toMs }: Span): ReactNode {
  // Of a very long one its beginning tells what began it.
  const span = useMemo(
    () => ({ fromMs: Math.round(fromMs), toMs: Math.round(Math.min(toMs, fromMs + longestMs)) }),
    [fromMs, toMs],
  );
  const found = useQuery({
    queryKey: ["differences", span.fromMs, span.toMs],
    queryFn: ({ signal }) => askDifferences(span, signal, () => {}),
    staleTime: Number.POSITIVE_INFINITY,
    retry: false,
  });
  const iso = (ms: number) => new Date(ms).toISOString();
  const address = `/differences?from=${iso(span.fromMs)}&to=${iso(span.toMs)}`;
  const { entries = [], overlaps = [] } = found.data ?? {};
  return (
    <section aria-label="What was different then" className="mt-3 text-[14px]" data-differed>
      <h2 className="font-bold">What was different then</h2>
      {found.isPending && <p className="text-quiet">comparing every line with its usual …</p>}
      {found.error && <p className="text-urgent">{found.error.message}</p>}
      {found.data && entries.length + overlaps.length === 0 && <p className="text-quiet">Nothing was unusual.</p>}
      <ul>
        {overlaps.slice(0, 1).map(({ words }) => (
          <li key={words}>{words}</li>
        ))}
        {entries.slice(0, mostSaid).map(({ words, machine, subject }) => (
          <li key={`${machine} ${subject}`}>{words}</li>
        ))}
      </ul>
      <SectionLink to={address} className="word-link">
        {entries.length > mostSaid ? `all ${entries.length} things, with their lines` : "with its lines and moments"}
      </SectionLink>
    </section>
  );
}
