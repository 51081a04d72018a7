import type { ReactNode } from "react";
import { Outlet } from "react-router";
import { useOnSamples } from "../api/live-provider.tsx";
import { TimeProvider } from "../time/time-provider.tsx";
import { TimeRail } from "./rail/time-rail.tsx";
import { AlertingNotice } from "./alerting-notice.tsx";
import { AwayNotice } from "./away-notice.tsx";
import { ClockNotice } from "./clock-notice.tsx";
import { Masthead } from "./masthead.tsx";
import { NoticesProvider } from "./notices.tsx";
import { SampleNotice } from "./sample-notice.tsx";
import { ShortcutsSheet } from "./shortcuts-sheet.tsx";
import { ViewBoundary } from "./view-boundary.tsx";

/** Masthead above, time rail below, the view between them. */
export function Frame({ name }: { name: string }): ReactNode {
  return (
    <TimeProvider onSamples={useOnSamples()}>
      <NoticesProvider>
        <a href="#view" className="sr-only focus:not-sr-only focus:absolute focus:z-50 focus:bg-paper focus:p-2">
          Skip to the view
        </a>
        <Masthead name={name} />
        <AwayNotice />
        <ClockNotice />
        <AlertingNotice />
        <SampleNotice />
        <main id="view" tabIndex={-1} className="mx-auto max-w-[1900px] px-4 pt-4 pb-40 outline-none sm:px-7">
          <ViewBoundary>
            <Outlet />
          </ViewBoundary>
        </main>
        <TimeRail />
        <ShortcutsSheet />
      </NoticesProvider>
    </TimeProvider>
  );
}

/** A view that fills the screen: time and notices hold, nothing stands around it. */
export function BareFrame({ children }: { children: ReactNode }): ReactNode {
  return (
    <TimeProvider onSamples={useOnSamples()}>
      <NoticesProvider>{children}</NoticesProvider>
    </TimeProvider>
  );
}
