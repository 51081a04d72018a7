import { FleetView } from "./views/fleet/fleet-view.tsx";
import { lazyView } from "./ui/lazy-view.ts";
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
import { listForwards } from "../../core/api/forwards.ts";
import { listTokens } from "../../core/api/tokens.ts";
import { WhoLooks } from "./shared/people/who-looks.ts";
import { OnlyFor } from "./shared/people/only-for.tsx";
import { useQuery } from "@tanstack/react-query";
import { type ReactNode, Suspense } from "react";
import { Route, Routes, useMatch } from "react-router";
import { RequestFailed } from "./api/client.ts";
import { LiveProvider } from "./api/live-provider.tsx";
import { meQuery } from "./api/queries.ts";
import { wantsDesktop } from "./frame/desktop-notifications.ts";
import { BareFrame, Frame } from "./frame/frame.tsx";
import { forgetKept } from "./frame/kept/until-drawn.ts";
import { KeptList } from "./frame/kept/kept-list.tsx";
import { forgetDrafts } from "./frame/drafts-place.ts";

const WaysInView = lazyView(() => import("./views/people/ways-in-view.tsx"), "WaysInView");
const AccountView = lazyView(() => import("./views/account/account-view.tsx"), "AccountView");
const AlertsView = lazyView(() => import("./views/alerts/alerts-view.tsx"), "AlertsView");
const IncidentView = lazyView(() => import("./views/alerts/incident-view.tsx"), "IncidentView");
const QuietTimesView = lazyView(() => import("./views/alerts/quiet-view.tsx"), "QuietTimesView");
const RecipientsView = lazyView(() => import("./views/alerts/recipients-view.tsx"), "RecipientsView");
const NewRuleView = lazyView(() => import("./views/alerts/rule-view.tsx"), "NewRuleView");
const RuleView = lazyView(() => import("./views/alerts/rule-view.tsx"), "RuleView");
const CountersView = lazyView(() => import("./views/counters/counters-view.tsx"), "CountersView");
const DashboardView = lazyView(() => import("./views/dashboards/dashboard-view.tsx"), "DashboardView");
const ReadyTileAloneView = lazyView(() => import("./views/dashboards/alone/tile-alone-view.tsx"), "ReadyTileAloneView");
const TileAloneView = lazyView(() => import("./views/dashboards/alone/tile-alone-view.tsx"), "TileAloneView");
const DashboardsView = lazyView(() => import("./views/dashboards/list/dashboards-view.tsx"), "DashboardsView");
const ReadyMadeView = lazyView(() => import("./views/dashboards/ready-made-view.tsx"), "ReadyMadeView");
const LinkView = lazyView(() => import("./views/dashboards/link/link-view.tsx"), "LinkView");
const WallView = lazyView(() => import("./views/dashboards/wall/wall-view.tsx"), "WallView");
const DifferencesView = lazyView(() => import("./views/differences/differences-view.tsx"), "DifferencesView");
const Entry = lazyView(() => import("./views/entry/entry.tsx"), "Entry");
const InvitationView = lazyView(() => import("./views/entry/invitation-view.tsx"), "InvitationView");
const ConnectView = lazyView(() => import("./views/connect/connect-view.tsx"), "ConnectView");
const DeedsView = lazyView(() => import("./views/people/deeds-view.tsx"), "DeedsView");
const LinksView = lazyView(() => import("./views/people/links-view.tsx"), "LinksView");
const PeopleView = lazyView(() => import("./views/people/people-view.tsx"), "PeopleView");
const EnergyView = lazyView(() => import("./views/planning/energy/energy-view.tsx"), "EnergyView");
const SpaceView = lazyView(() => import("./views/planning/space/space-view.tsx"), "SpaceView");
const FitView = lazyView(() => import("./views/planning/fit/fit-view.tsx"), "FitView");
const MonthView = lazyView(() => import("./views/planning/month/month-view.tsx"), "MonthView");
const WatchingView = lazyView(() => import("./views/planning/watching/watching-view.tsx"), "WatchingView");
const BesideView = lazyView(() => import("./views/recordings/beside-view.tsx"), "BesideView");
const NewRecordingView = lazyView(() => import("./views/recordings/recording-view.tsx"), "NewRecordingView");
const RecordingView = lazyView(() => import("./views/recordings/recording-view.tsx"), "RecordingView");
const RecordingsView = lazyView(() => import("./views/recordings/recordings-view.tsx"), "RecordingsView");
const RunView = lazyView(() => import("./views/recordings/run-view.tsx"), "RunView");
const ConditionView = lazyView(() => import("./views/sources/condition-view.tsx"), "ConditionView");
const CostsView = lazyView(() => import("./views/sources/costs-view.tsx"), "CostsView");
const SourceView = lazyView(() => import("./views/sources/source-view.tsx"), "SourceView");
const SourcesView = lazyView(() => import("./views/sources/sources-view.tsx"), "SourcesView");
const TransportView = lazyView(() => import("./views/sources/transport-view.tsx"), "TransportView");
const ForwardsView = lazyView(() => import("./views/sources/forwards-view.tsx"), "ForwardsView");
const TokensView = lazyView(() => import("./views/sources/tokens-view.tsx"), "TokensView");
const SteadinessView = lazyView(() => import("./views/steadiness/steadiness-view.tsx"), "SteadinessView");
const PartView = lazyView(() => import("./views/machine/part-view.tsx"), "PartView");
const MachineView = lazyView(() => import("./views/machine/machine-view.tsx"), "MachineView");

const UnknownView = lazyView(() => import("./views/unknown/unknown-view.tsx"), "UnknownView");
const only = (ask: AnyRoute, view: ReactNode): ReactNode => <OnlyFor ask={ask}>{view}</OnlyFor>;

/** Everything behind the door, the door, and what is opened by a link. */
export function App(): ReactNode {
  const invitation = useMatch("/invitation/:code")?.params.code;
  const secret = useMatch("/s/:secret")?.params.secret;
  return (
    <Suspense fallback={<Opening />}>
      {secret !== undefined ? (
        <LinkView secret={secret} />
      ) : invitation !== undefined ? (
        <InvitationView code={invitation} />
      ) : (
        <Inside />
      )}
    </Suspense>
  );
}

const Opening = (): ReactNode => (
  <p aria-busy className="p-8 text-quiet">
    opening …
  </p>
);

/** What people see who are signed in, and the door to it. */
function Inside(): ReactNode {
  const me = useQuery(meQuery);
  if (me.error instanceof RequestFailed && me.error.status === 401) {
    forgetDrafts(); // the session is over, wherever it was ended
    forgetKept();
    return <Entry />;
  }
  if (me.data) {
    return (
      <WhoLooks value={me.data}>
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
              <Route path="sources/sent-on" element={only(listForwards, <ForwardsView />)} />
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
              <Route path="*" element={<UnknownView />} />
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
      </WhoLooks>
    );
  }
  if (me.isPending) return <Opening />;
  return (
    <main className="p-8">
      <p>{me.error.message}</p>
      <button type="button" className="act mt-4" onClick={() => void me.refetch()}>
        Try again
      </button>
      <KeptList />
    </main>
  );
}
