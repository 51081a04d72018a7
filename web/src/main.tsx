import { basePath } from "./api/base-path.ts";
import { MutationCache, QueryCache, QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter } from "react-router";
import { RequestFailed } from "./api/client.ts";
import { answerInFrames } from "./api/in-frames.ts";
import { meQuery } from "./api/queries.ts";
import { App } from "./app.tsx";
import { atTheFields, tellFaults, watchFields } from "./ui/field-faults.ts";
import { askFleetAhead } from "./views/fleet/ask-ahead.ts";
import { showKeptUntilDrawn } from "./frame/kept/until-drawn.ts";
import { startTheme } from "./ui/theme.ts";
import "./styles.css";

watchFields(document);
startTheme();
const queries: QueryClient = new QueryClient({
  // A session that was ended, in another window say, is found out by the first request that is refused.
  queryCache: new QueryCache({
    onError: (error, { queryKey }) => {
      if (error instanceof RequestFailed && error.status === 401 && queryKey[0] !== meQuery.queryKey[0])
        void queries.invalidateQueries({ queryKey: meQuery.queryKey });
    },
  }),
  // What was sent and refused is told at the fields that it is of, once.
  mutationCache: new MutationCache({
    onError: (error) => {
      if (error instanceof RequestFailed && tellFaults(error.errors)) error.message = atTheFields;
    },
  }),
  defaultOptions: {
    queries: {
      refetchOnWindowFocus: false,
      // What the server refused stays refused. While it or its database is away, which one notice tells, it is asked on
      // and on and what was shown stays.
      retry: (count, error) =>
        (error instanceof RequestFailed && error.isAway) ||
        (count < 3 && !(error instanceof RequestFailed && error.status < 500)),
      retryDelay: 2000,
    },
  },
});

answerInFrames();
showKeptUntilDrawn(queries);
if (location.pathname === `${basePath}/`)
  queries.ensureQueryData(meQuery).then(
    () => askFleetAhead(queries),
    () => undefined, // nobody is signed in: the page says so
  );
createRoot(document.getElementById("root") as HTMLElement).render(
  <StrictMode>
    <QueryClientProvider client={queries}>
      <BrowserRouter basename={basePath || "/"}>
        <App />
      </BrowserRouter>
    </QueryClientProvider>
  </StrictMode>,
);
