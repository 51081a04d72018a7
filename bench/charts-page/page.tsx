import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { type ReactNode, useEffect, useState } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter } from "react-router";
import "./page.css";
import { answerInFrames } from "../../web/src/api/in-frames.ts";
import { LiveProvider } from "../../web/src/api/live-provider.tsx";
import { chartManager } from "../../web/src/charts/chart-manager.ts";
import { TimeChart } from "../../web/src/charts/time-chart.tsx";
import { TimeProvider } from "../../web/src/time/time-provider.tsx";
import type { Span } from "../../web/src/time/time-window.ts";
import { useReading } from "../../web/src/sentence/use-reading.ts";

const charts = 20;
const places = Array.from({ length: charts }, (_, i) => i);
/** What a plot of a fifth of the page has pixels for. */
const points = 120;
const hourMs = 3_600_000;
const queries = new QueryClient({ defaultOptions: { queries: { refetchOnWindowFocus: false } } });
/** Windows whose answers have been given, by their start. */
const answered = new Map<number, Set<number>>();

interface Measured {
  /** Until all that was at hand had been drawn, and until all data was there and drawn; ms. */
  readonly firstMs: number;
  readonly wholeMs: number;
}

declare global {
  interface Window {
    measure: {
      appear(endMs: number): Promise<Measured>;
      change(endMs: number): Promise<Measured>;
      clear(): Promise<void>;
    };
  }
}

let show: (span: Span | null) => void = () => {};

function Page(): ReactNode {
  const [span, setSpan] = useState<Span | null>(null);
  useEffect(() => {
    show = setSpan;
  }, []);
  return (
    <div className="grid grid-cols-4 gap-2 p-2">
      {span && places.map((place) => <Chart key={place} place={place} span={span} />)}
    </div>
  );
}

function Chart({ place, span }: { place: number; span: Span }): ReactNode {
  const answer = useReading({ sentences: { a: { counter: `bench.level.${place}` } } }, span, points);
  useEffect(() => {
    if (!answer.data || answer.isPlaceholderData) return;
    const all = answered.get(span.fromMs) ?? new Set();
    answered.set(span.fromMs, all.add(place));
  }, [answer.data, answer.isPlaceholderData, place, span]);
  return <TimeChart title={`chart ${place}`} answer={answer.data} span={span} unit="1" nameOf={nameOf} height={70} />;
}

const nameOf = ({ tags }: { tags: Readonly<Record<string, string>> }) => tags["device"] ?? "";

async function timed(endMs: number): Promise<Measured> {
  const span = { fromMs: endMs - 24 * hourMs, toMs: endMs };
  const began = performance.now();
  let firstMs = 0;
  return new Promise((done) => {
    const off = chartManager.onIdle(() => {
      const passed = performance.now() - began;
      firstMs ||= passed;
      if (
        answered.get(span.fromMs)?.size !== charts ||
        document.querySelectorAll("[data-chart] canvas").length < charts
      )
        return;
      off();
      done({ firstMs, wholeMs: passed });
    });
    show(span);
  });
}

window.measure = {
  appear: timed,
  change: timed,
  clear: async () => {
    show(null);
    queries.clear();
    answered.clear();
    await new Promise((done) => setTimeout(done, 300));
  },
};

const never = () => false;
const noSamples = () => () => {};
answerInFrames();
createRoot(document.getElementById("root") as HTMLElement).render(
  <QueryClientProvider client={queries}>
    <BrowserRouter>
      <LiveProvider staysHidden={never}>
        <TimeProvider onSamples={noSamples}>
          <Page />
        </TimeProvider>
      </LiveProvider>
    </BrowserRouter>
  </QueryClientProvider>,
);
