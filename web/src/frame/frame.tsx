import { PlacesBanner } from "./places-banner.tsx";
import { type ReactNode, Suspense } from "react";
import { Outlet, useLocation } from "react-router";
import { useOnSamples } from "../api/live-provider.tsx";
import { TimeProvider } from "../time/time-provider.tsx";
import { TimeRail } from "./rail/time-rail.tsx";
import { isTimeless } from "./rail/timeless.ts";
import { AlertingBanner } from "./alerting-banner.tsx";
import { AwayBanner } from "./away-banner.tsx";
import { ClockBanner } from "./clock-banner.tsx";
import { Masthead } from "./masthead.tsx";
import { ToastsProvider } from "./toasts.tsx";
import { DemoBanner } from "./demo-banner.tsx";
import { ProofDialog } from "./proof-dialog.tsx";
import { useKeptPages } from "./kept/use-kept-pages.ts";
import { RunningBanner } from "./running-banner.tsx";
import { ShortcutsSheet } from "./shortcuts-sheet.tsx";
import { ViewBoundary } from "./view-boundary.tsx";

/** Masthead above, time rail below, the view between them. */
export function Frame({ name }: { name: string }): ReactNode {
  useKeptPages();
  const hasRail = !isTimeless(useLocation().pathname);
  return (
    <TimeProvider onSamples={useOnSamples()}>
      <ToastsProvider>
        <a href="#view" className="sr-only focus:not-sr-only focus:absolute focus:z-50 focus:bg-paper focus:p-2">
          Skip to the view
        </a>
        <Masthead name={name} />
        <AwayBanner />
        <ClockBanner />
        <AlertingBanner />
        <PlacesBanner />
        <DemoBanner />
        <RunningBanner />
        <main
          id="view"
          tabIndex={-1}
          className={`mx-auto max-w-[1900px] px-4 pt-4 outline-none sm:px-7 ${hasRail ? "pb-20 sm:pb-40" : "pb-12"}`}
        >
          <ViewBoundary>
            <Suspense fallback={<Opening />}>
              <Outlet />
            </Suspense>
          </ViewBoundary>
        </main>
        {hasRail && <TimeRail />}
        <ShortcutsSheet />
        <ProofDialog name={name} />
      </ToastsProvider>
    </TimeProvider>
  );
}

/** A view whose code has not come yet. */
const Opening = (): ReactNode => (
  <p aria-busy className="text-quiet">
    opening …
  </p>
);

/** A view that fills the screen: time and notices hold, nothing stands around it. */
export function BareFrame({ children }: { children: ReactNode }): ReactNode {
  useKeptPages();
  return (
    <TimeProvider onSamples={useOnSamples()}>
      <ToastsProvider>{children}</ToastsProvider>
    </TimeProvider>
  );
}
