import { keepPreviousData, queryOptions } from "@tanstack/react-query";
import type { AlertingView } from "../../../core/api/alerting.ts";
import type { ConditionView, Health } from "../../../core/api/condition.ts";
import type { CostsView } from "../../../core/api/costs.ts";
import type { CounterDetail, CounterView, RawSamples, TagsPresent } from "../../../core/api/counters.ts";
import type { DashboardListed, DashboardRevision, DashboardView } from "../../../core/api/dashboards.ts";
import type { DensityView } from "../../../core/api/readings.ts";
import type { IncidentDetail } from "../../../core/api/incidents.ts";
import type { IntakeLimits } from "../../../core/sources/intake-limits.ts";
import type { MachineDetail, MachineView } from "../../../core/api/machines.ts";
import type { MachineEvent } from "../../../core/events/machine-event.ts";
import type { Me } from "../../../core/api/people.ts";
import type { MessageView, RecipientView } from "../../../core/api/messages.ts";
import type { QuietView } from "../../../core/api/quiet.ts";
import type { RuleView } from "../../../core/api/rules.ts";
import type { SampleView } from "../../../core/api/sample.ts";
import type { SourceView, SpellView } from "../../../core/api/sources.ts";
import type { TokenView } from "../../../core/api/tokens.ts";
import type { TransportView } from "../../../core/api/transport.ts";
import type { BriefingLine } from "../../../core/briefing/briefing.ts";
import type { ReadingDocument } from "../../../core/reading/document.ts";
import type { IncidentView } from "../../../core/rules/rule.ts";
import { railParts } from "../time/rail-stretch.ts";
import { askReading } from "./ask-reading.ts";
import { ask, RequestFailed } from "./client.ts";

/** By whose clock days, weeks and months begin. */
export const viewerZone = Intl.DateTimeFormat().resolvedOptions().timeZone;

export const meQuery = queryOptions({
  queryKey: ["me"],
  queryFn: ({ signal }) => ask<Me>("GET", "/me", undefined, signal),
  retry: false,
  staleTime: Number.POSITIVE_INFINITY,
  // Not to be told who one is for another reason than being signed out passes by itself.
  refetchInterval: ({ state }) => (state.error instanceof RequestFailed && state.error.status !== 401 ? 5000 : false),
  // Somebody may have signed in in another window meanwhile.
  refetchOnWindowFocus: ({ state }) => state.status === "error",
});
/** Health needs no sign-in, and is an answer also where it is not good. */
export const healthQuery = queryOptions({
  queryKey: ["health"],
  queryFn: async ({ signal }): Promise<Health> => (await fetch("/api/health", { signal })).json(),
  refetchInterval: 5000,
  retry: false,
});
/** Null where this is no sample world; asked on while its past is being written. */
export const sampleQuery = queryOptions({
  queryKey: ["sample"],
  queryFn: ({ signal }) => ask<SampleView | null>("GET", "/sample", undefined, signal),
  refetchInterval: ({ state }) => (state.data && state.data.progress < 1 ? 2000 : false),
  staleTime: 60_000,
});
export const eventsQuery = (fromMs: number, toMs: number) =>
  queryOptions({ queryKey: ["events", fromMs, toMs], queryFn: ({ signal }) => ask<readonly MachineEvent[]>("GET", `/events?from=${Math.floor(fromMs)}&to=${Math.ceil(toMs)}`, undefined, signal), placeholderData: keepPreviousData });
export const costsQuery = queryOptions({ queryKey: ["costs"], queryFn: ({ signal }) => ask<CostsView>("GET", "/costs", undefined, signal), refetchInterval: 10_000 });
export const conditionQuery = queryOptions({ queryKey: ["condition"], queryFn: ({ signal }) => ask<ConditionView>("GET", "/condition", undefined, signal), refetchInterval: 5000 });
export const setupQuery = queryOptions({ queryKey: ["setup"], queryFn: () => ask<{ needed: boolean }>("GET", "/setup") });
export const machinesQuery = queryOptions({ queryKey: ["machines"], queryFn: ({ signal }) => ask<readonly MachineView[]>("GET", "/machines", undefined, signal), refetchInterval: 5000 });
/** The colour of each machine, the same everywhere. Charts read it from what is fetched for the fleet. */
export const machineColoursQuery = queryOptions({ ...machinesQuery, select: (machines) => new Map(machines.map(({ name, colour }) => [name, colour])), staleTime: 60_000, refetchInterval: false });
export const countersQuery = queryOptions({ queryKey: ["counters"], queryFn: ({ signal }) => ask<readonly CounterView[]>("GET", "/counters", undefined, signal), staleTime: 60_000 });
/** Which values of some tags occur together among what reports of some counters. */
export const tagsQuery = (tags: readonly string[], counters: readonly string[]) =>
  queryOptions({
    queryKey: ["tags", tags, counters],
    queryFn: ({ signal }) => ask<TagsPresent>("GET", `/tags?${new URLSearchParams([...tags.map((tag) => ["tag", tag]), ...counters.map((name) => ["counter", name])]).toString()}`, undefined, signal),
    placeholderData: keepPreviousData,
    staleTime: 30_000,
  });
export const counterQuery = (name: string) => queryOptions({ queryKey: ["counters", name], queryFn: ({ signal }) => ask<CounterDetail>("GET", `/counters/${encodeURIComponent(name)}`, undefined, signal), staleTime: 10_000, refetchInterval: 15_000, retry: false });
export const samplesQuery = (id: number, fromMs: number, toMs: number) =>
  queryOptions({ queryKey: ["samples", id, fromMs, toMs], queryFn: ({ signal }) => ask<RawSamples>("GET", `/series/${id}/samples?from=${Math.floor(fromMs)}&to=${Math.ceil(toMs)}`, undefined, signal), placeholderData: keepPreviousData, gcTime: 30_000 });
export const rulesQuery = queryOptions({ queryKey: ["rules"], queryFn: ({ signal }) => ask<readonly RuleView[]>("GET", "/rules", undefined, signal), refetchInterval: 5000 });

export const dashboardsQuery = queryOptions({ queryKey: ["dashboards"], queryFn: ({ signal }) => ask<readonly DashboardListed[]>("GET", "/dashboards", undefined, signal) });
export const dashboardQuery = (id: number) => queryOptions({ queryKey: ["dashboards", id], queryFn: ({ signal }) => ask<DashboardView>("GET", `/dashboards/${id}`, undefined, signal) });
export const dashboardVersionsQuery = (id: number) => queryOptions({ queryKey: ["dashboards", id, "versions"], queryFn: ({ signal }) => ask<readonly DashboardRevision[]>("GET", `/dashboards/${id}/versions`, undefined, signal) });

export const briefingQuery = queryOptions({ queryKey: ["briefing"], queryFn: ({ signal }) => ask<readonly BriefingLine[]>("GET", "/briefing", undefined, signal), refetchInterval: 30_000 });

export const machineQuery = (name: string) =>
  queryOptions({ queryKey: ["machines", name], queryFn: ({ signal }) => ask<MachineDetail>("GET", `/machines/${encodeURIComponent(name)}`, undefined, signal), refetchInterval: 5000 });

/** A reading keeps what it showed while a newer window is fetched. */
export const readingQuery = (document: ReadingDocument) =>
  queryOptions({ queryKey: ["reading", document], queryFn: ({ signal }) => askReading({ zone: viewerZone, ...document }, signal), placeholderData: keepPreviousData, staleTime: 4000, gcTime: 30_000 });

export const incidentsQuery = (fromMs: number, toMs: number) =>
  queryOptions({ queryKey: ["incidents", fromMs, toMs], queryFn: ({ signal }) => ask<readonly IncidentView[]>("GET", `/incidents?from=${Math.floor(fromMs)}&to=${Math.ceil(toMs)}`, undefined, signal), placeholderData: keepPreviousData });

export const incidentQuery = (id: number) => queryOptions({ queryKey: ["incidents", "one", id], queryFn: ({ signal }) => ask<IncidentDetail>("GET", `/incidents/${id}`, undefined, signal), refetchInterval: 10_000 });
export const alertingQuery = queryOptions({ queryKey: ["alerting"], queryFn: ({ signal }) => ask<AlertingView>("GET", "/alerting", undefined, signal), refetchInterval: 10_000 });
export const recipientsQuery = queryOptions({ queryKey: ["recipients"], queryFn: ({ signal }) => ask<readonly RecipientView[]>("GET", "/recipients", undefined, signal), refetchInterval: 15_000 });
export const messagesQuery = queryOptions({ queryKey: ["messages"], queryFn: ({ signal }) => ask<readonly MessageView[]>("GET", "/messages?most=100", undefined, signal), refetchInterval: 5000 });
export const quietTimesQuery = queryOptions({ queryKey: ["quiet-times"], queryFn: ({ signal }) => ask<readonly QuietView[]>("GET", "/quiet-times", undefined, signal), refetchInterval: 15_000 });

/** What is raised now, of rules and of silent sources. */
export const raisedQuery = queryOptions({
  queryKey: ["incidents", "open"],
  queryFn: async ({ signal }) => (await ask<readonly IncidentView[]>("GET", `/incidents?from=${Date.now() - 1}&to=${Date.now()}`, undefined, signal)).filter(({ clearedAtMs }) => clearedAtMs === null),
  refetchInterval: 5000,
});

export const densityQuery = (fromMs: number, toMs: number) =>
  queryOptions({ queryKey: ["density", fromMs, toMs], queryFn: ({ signal }) => ask<DensityView>("GET", `/density?from=${Math.floor(fromMs)}&to=${Math.ceil(toMs)}&parts=${railParts}`, undefined, signal), placeholderData: keepPreviousData });

export const sourcesQuery = queryOptions({ queryKey: ["sources"], queryFn: ({ signal }) => ask<readonly SourceView[]>("GET", "/sources", undefined, signal), refetchInterval: 3000 });
export const tokensQuery = queryOptions({ queryKey: ["tokens"], queryFn: ({ signal }) => ask<readonly TokenView[]>("GET", "/tokens", undefined, signal), refetchInterval: 30_000 });
export const limitsQuery = queryOptions({ queryKey: ["intake-limits"], queryFn: ({ signal }) => ask<IntakeLimits>("GET", "/intake-limits", undefined, signal) });

export const transportQuery = queryOptions({ queryKey: ["transport"], queryFn: ({ signal }) => ask<TransportView>("GET", "/transport", undefined, signal), staleTime: 60_000 });

export const spellsQuery = (id: number, fromMs: number, toMs: number) =>
  queryOptions({ queryKey: ["sources", id, "spells", fromMs, toMs], queryFn: ({ signal }) => ask<readonly SpellView[]>("GET", `/sources/${id}/spells?from=${Math.floor(fromMs)}&to=${Math.ceil(toMs)}`, undefined, signal), placeholderData: keepPreviousData, staleTime: 4000, gcTime: 30_000 });
