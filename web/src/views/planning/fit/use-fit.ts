import { useCallback, useRef, useState } from "react";
import { askFit, type FitAnswer, type FitBody } from "../../../../../core/api/fit.ts";
import { callLines, problemError } from "../../../api/client.ts";

interface FitState {
  readonly isAsking: boolean;
  readonly progress: number;
  readonly bound: number | null;
  readonly hostsOn: number | null;
  readonly answer: FitAnswer | undefined;
  readonly error: Error | undefined;
}

const nothing: FitState = {
  isAsking: false,
  progress: 0,
  bound: null,
  hostsOn: null,
  answer: undefined,
  error: undefined,
};

/** Asks whether guests fit on fewer machines, and tells how far that is; what was answered before stays meanwhile. */
export function useFit(): FitState & { readonly ask: (body: FitBody) => void; readonly stop: () => void } {
  const [state, setState] = useState<FitState>(nothing);
  const asking = useRef<AbortController | undefined>(undefined);
  const stop = useCallback(() => {
    asking.current?.abort();
    asking.current = undefined;
    setState((before) => ({ ...before, isAsking: false }));
  }, []);
  const ask = useCallback((body: FitBody) => {
    asking.current?.abort();
    const gone = new AbortController();
    asking.current = gone;
    setState((before) => ({ ...before, isAsking: true, progress: 0, error: undefined }));
    const take = (change: Partial<FitState>) => {
      if (!gone.signal.aborted) setState((before) => ({ ...before, ...change }));
    };
    void (async () => {
      try {
        for await (const line of callLines(askFit, body, gone.signal)) {
          if ("problem" in line) throw problemError(500, line.problem);
          if ("progress" in line) take({ progress: line.progress, bound: line.bound || null, hostsOn: line.hostsOn });
          else take({ answer: line, isAsking: false });
        }
        take({ isAsking: false });
      } catch (error) {
        take({ isAsking: false, error: error as Error });
      }
    })();
  }, []);
  return { ...state, ask, stop };
}
