import { WaysInView } from "./views/people/ways-in-view.tsx";
import { getIssuer } from "../../core/api/issuer.ts";
import { listDeeds } from "../../core/api/audit.ts";
import { getCondition } from "../../core/api/condition.ts";
import { listLinks } from "../../core/api/links.ts";
import { listRecipients } from "../../core/api/messages.ts";
import { listPeople } from "../../core/api/people.ts";
import { makeRecording } from "../../core/api/recordings.ts";
import type { Route as AnyRoute } from "../../core/api/route.ts";
import { makeRule } from "../../core/api/rules.ts";
import { makeSource } from "../../core/api/sources.ts";
import { listTokens } from "../../core/api/tokens.ts";
import { OnlyFor } from "./shared/people/only-for.tsx";
import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { Navigate, Route, Routes, useMatch } from "react-router";
import { RequestFailed } from "./api/client.ts";
import { LiveProvider } from "./api/live-provider.tsx";
import { meQuery } from "./api/queries.ts";
import { wantsDesktop } from "./frame/desktop-notifications.ts";
import { BareFrame, Frame } from "./frame/frame.tsx";
import { forgetDrafts } from "./frame/drafts-place.ts";
import { AccountView } from "./views/account/account-view.tsx";
import { AlertsView } from "./views/alerts/alerts-view.tsx";
import { IncidentView } from "./views/alerts/incident-view.tsx";
import { QuietTimesView } from "./views/alerts/quiet-view.tsx";
import { RecipientsView } from "./views/alerts/recipients-view.tsx";
import { NewRuleView, RuleView } from "./views/alerts/rule-view.tsx";
import { CountersView } from "./views/counters/counters-view.tsx";
import { DashboardView } from "./views/dashboards/dashboard-view.tsx";
import { ReadyTileAloneView, TileAloneView } from "./views/dashboards/alone/tile-alone-view.tsx";
import { DashboardsView } from "./views/dashboards/list/dashboards-view.tsx";
import { ReadyMadeView } from "./views/dashboards/ready-made-view.tsx";
import { LinkView } from "./views/dashboards/link/link-view.tsx";
import { WallView } from "./views/dashboards/wall/wall-view.tsx";
import { DifferencesView } from "./views/differences/differences-view.tsx";
import { Entry } from "./views/entry/entry.tsx";
import { InvitationView } from "./views/entry/invitation-view.tsx";
import { FleetView } from "./views/fleet/fleet-view.tsx";
import { ConnectView } from "./views/connect/connect-view.tsx";
import { DeedsView } from "./views/people/deeds-view.tsx";
import { LinksView } from "./views/people/links-view.tsx";
import { PeopleView } from "./views/people/people-view.tsx";
import { EnergyView } from "./views/planning/energy/energy-view.tsx";
import { SpaceView } from "./views/planning/space/space-view.tsx";
import { FitView } from "./views/planning/fit/fit-view.tsx";
import { MonthView } from "./views/planning/month/month-view.tsx";
import { WatchingView } from "./views/planning/watching/watching-view.tsx";
import { BesideView } from "./views/recordings/beside-view.tsx";
import { NewRecordingView, RecordingView } from "./views/recordings/recording-view.tsx";
import { RecordingsView } from "./views/recordings/recordings-view.tsx";
import { RunView } from "./views/recordings/run-view.tsx";
import { ConditionView } from "./views/sources/condition-view.tsx";
import { CostsView } from "./views/sources/costs-view.tsx";
import { SourceView } from "./views/sources/source-view.tsx";
import { SourcesView } from "./views/sources/sources-view.tsx";
import { TransportView } from "./views/sources/transport-view.tsx";
import { TokensView } from "./views/sources/tokens-view.tsx";
import { SteadinessView } from "./views/steadiness/steadiness-view.tsx";
import { PartView } from "./views/machine/part-view.tsx";
import { MachineView } from "./views/machine/machine-view.tsx";

const only = (ask: AnyRoute, view: ReactNode): ReactNode => <OnlyFor ask={ask}>{view}</OnlyFor>;

/** Everything behind the door, the door, and what is opened by a link. */
export function App(): ReactNode {
  const invitation = useMatch("/invitation/:code")?.params.code;
  const secret = useMatch("/s/:secret")?.params.secret;
  if (secret !== undefined) return <LinkView secret={secret} />;
  if (invitation !== undefined) return <InvitationView code={invitation} />;
  return <Inside />;
}

/** What people see who are signed in, and the door to it. */
function Inside(): ReactNode {
  const me = useQuery(meQuery);
  if (me.error instanceof RequestFailed && me.error.status === 401) {
    forgetDrafts(); // the session is over, wherever it was ended
    return <Entry />;
  }
  if (me.data) {
    return (
      <LiveProvider staysHidden={wantsDesktop}>
        <Routes>
          <Route element={<Frame name={me.data.name} />}>
            <Route index element={<FleetView />} />
            <Route path="machines/:name" element={<MachineView />} />
            <Route path="machines/:name/guests/:part" element={<PartView kind="guest" />} />
            <Route path="machines/:name/containers/:part" element={<PartView kind="container" />} />
            <Route path="counters" element={<CountersView />} />
            <Route path="dashboards" element={<DashboardsView />} />
            <Route path="dashboards/ready-made/:id" element={<ReadyMadeView />} />
            <Route path="dashboards/ready-made/:id/tiles/:tile" element={<ReadyTileAloneView />} />
            <Route path="dashboards/:id" element={<DashboardView />} />
            <Route path="dashboards/:id/tiles/:tile" element={<TileAloneView />} />
            <Route path="alerts" element={<AlertsView />} />
            <Route path="alerts/incidents/:id" element={<IncidentView />} />
            <Route path="alerts/rules/new" element={only(makeRule, <NewRuleView />)} />
            <Route path="alerts/rules/:id" element={<RuleView />} />
            <Route path="alerts/recipients" element={only(listRecipients, <RecipientsView />)} />
            <Route path="alerts/quiet" element={<QuietTimesView />} />
            <Route path="steadiness" element={<SteadinessView />} />
            <Route path="differences" element={<DifferencesView />} />
            <Route path="recordings" element={<RecordingsView />} />
            <Route path="recordings/new" element={only(makeRecording, <NewRecordingView />)} />
            <Route path="recordings/:id" element={<RecordingView />} />
            <Route path="recordings/:id/beside" element={<BesideView />} />
            <Route path="recordings/:id/runs/:run" element={<RunView />} />
            <Route path="planning" element={<EnergyView />} />
            <Route path="planning/space" element={<SpaceView />} />
            <Route path="planning/fit" element={<FitView />} />
            <Route path="planning/month" element={<MonthView />} />
            <Route path="planning/watching" element={<WatchingView />} />
            <Route path="sources" element={<SourcesView />} />
            <Route path="sources/connect" element={only(makeSource, <ConnectView />)} />
            <Route path="sources/tokens" element={only(listTokens, <TokensView />)} />
            <Route path="sources/transport" element={<TransportView />} />
            <Route path="sources/costs" element={<CostsView />} />
            <Route path="sources/condition" element={only(getCondition, <ConditionView />)} />
            <Route path="sources/:id" element={<SourceView />} />
            <Route path="account" element={<AccountView />} />
            <Route path="people" element={only(listPeople, <PeopleView />)} />
            <Route path="people/ways-in" element={only(getIssuer, <WaysInView />)} />
            <Route path="people/links" element={only(listLinks, <LinksView />)} />
            <Route path="people/deeds" element={only(listDeeds, <DeedsView />)} />
            <Route path="*" element={<Navigate to="/" replace />} />
          </Route>
          <Route
            path="wall"
            element={
              <BareFrame>
                <WallView />
              </BareFrame>
            }
          />
        </Routes>
      </LiveProvider>
    );
  }
  if (me.isPending) return <p className="p-8 text-quiet">opening …</p>;
  return (
    <main className="p-8">
      <p>{me.error.message}</p>
      <button type="button" className="act mt-4" onClick={() => void me.refetch()}>
        Try again
      </button>
    </main>
  );
}
