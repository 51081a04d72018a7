import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter } from "react-router";
import { RequestFailed } from "./api/client.ts";
import { answerInFrames } from "./api/in-frames.ts";
import { App } from "./app.tsx";
import { startTheme } from "./frame/theme.ts";
import "./styles.css";

startTheme();
const queries = new QueryClient({
  defaultOptions: {
    queries: {
      refetchOnWindowFocus: false,
      // What the server refused stays refused. While it or its database is away, which one notice tells, it is asked on and on and what was shown stays.
      retry: (count, error) => (error instanceof RequestFailed && error.isAway) || (count < 3 && !(error instanceof RequestFailed && error.status < 500)),
      retryDelay: 2000,
    },
  },
});

answerInFrames();
createRoot(document.getElementById("root") as HTMLElement).render(
  <StrictMode>
    <QueryClientProvider client={queries}>
      <BrowserRouter>
        <App />
      </BrowserRouter>
    </QueryClientProvider>
  </StrictMode>,
);
