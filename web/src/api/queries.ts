import { listForwards } from "../../../core/api/forwards.ts";
import { apiAddress } from "./base-path.ts";
import { getDoorNews } from "../../../core/api/door-news.ts";
import { listNewChanges, listNewPlaces } from "../../../core/api/places.ts";
import { listMyTokens } from "../../../core/api/tokens.ts";
import { getIssuer } from "../../../core/api/issuer.ts";
import { listPasskeys } from "../../../core/api/passkeys.ts";
import { getWaysIn } from "../../../core/api/people.ts";
import { getBriefing } from "../../../core/api/briefing.ts";
import { getPlanningSettings, listTariffs } from "../../../core/api/energy.ts";
import { getSpace } from "../../../core/api/space.ts";
import { listEvents } from "../../../core/api/events.ts";
import { keepPreviousData, queryOptions } from "@tanstack/react-query";
import { getAlerting } from "../../../core/api/alerting.ts";
import { getCondition, getHealth, type Health } from "../../../core/api/condition.ts";
import { getSlowness } from "../../../core/api/slowness.ts";
import { getCosts } from "../../../core/api/costs.ts";
import { getCounter, getSamples, getTags, listCounters } from "../../../core/api/counters.ts";
import { getDashboard, listDashboards, listVersions } from "../../../core/api/dashboards.ts";
import { getDensity } from "../../../core/api/readings.ts";
import { getIncident, listIncidents } from "../../../core/api/incidents.ts";
import { getMachine, listMachines } from "../../../core/api/machines.ts";
import { getShared, listLinks } from "../../../core/api/links.ts";
import { getCodes, getMe, getSetup, listInvitations, listPeople, listSessions } from "../../../core/api/people.ts";
import { listMessages, listRecipients } from "../../../core/api/messages.ts";
import { listQuietTimes } from "../../../core/api/quiet.ts";
import { getRun, listRecordings, listRunning, listRuns } from "../../../core/api/recordings.ts";
import { listRules } from "../../../core/api/rules.ts";
import { getDemo } from "../../../core/api/demo.ts";
import { getLimits, listSources, listSpells } from "../../../core/api/sources.ts";
import { listTokens } from "../../../core/api/tokens.ts";
import { getTransport } from "../../../core/api/transport.ts";
import type { ReadingDocument } from "../../../core/reading/document.ts";
import { railParts } from "../time/rail-stretch.ts";
import type { Span } from "../time/time-window.ts";
import { askReading } from "./ask-reading.ts";
import { call, RequestFailed } from "./client.ts";

/** What changes by itself on every page is asked for so often. */
const toldEveryMs = 10_000;
/** What the live stream tells when it changes is asked for so often beside it. */
const pushedEveryMs = 15_000;

/** By whose clock days, weeks and months begin. */
export const viewerZone = Intl.DateTimeFormat().resolvedOptions().timeZone;

export const meQuery = queryOptions({
  queryKey: ["me"],
  queryFn: ({ signal }) => call(getMe, {}, undefined, { signal }),
  retry: false,
  staleTime: Number.POSITIVE_INFINITY,
  // Not to be told who one is for another reason than being signed out passes by itself.
  refetchInterval: ({ state }) => (state.error instanceof RequestFailed && state.error.status !== 401 ? 5000 : false),
  // Somebody may have signed in in another window meanwhile.
  refetchOnWindowFocus: ({ state }) => state.status === "error",
});
export const peopleQuery = queryOptions({
  queryKey: ["people"],
  queryFn: ({ signal }) => call(listPeople, {}, undefined, { signal }),
});
export const invitationsQuery = queryOptions({
  queryKey: ["people", "invitations"],
  queryFn: ({ signal }) => call(listInvitations, {}, undefined, { signal }),
});
export const sessionsQuery = queryOptions({
  queryKey: ["sessions"],
  queryFn: ({ signal }) => call(listSessions, {}, undefined, { signal }),
});
export const passkeysQuery = queryOptions({
  queryKey: ["passkeys"],
  queryFn: ({ signal }) => call(listPasskeys, {}, undefined, { signal }),
});
/** Made or revoked, the keys of all tokens begin alike. */
export const myTokensQuery = queryOptions({
  queryKey: ["tokens", "mine"],
  queryFn: ({ signal }) => call(listMyTokens, {}, undefined, { signal, isAside: true }),
});
export const newPlacesQuery = queryOptions({
  queryKey: ["new-places"],
  queryFn: ({ signal }) => call(listNewPlaces, {}, undefined, { signal, isAside: true }),
});
export const newChangesQuery = queryOptions({
  queryKey: ["new-changes"],
  queryFn: ({ signal }) => call(listNewChanges, {}, undefined, { signal, isAside: true }),
});
export const doorNewsQuery = queryOptions({
  queryKey: ["door-news"],
  queryFn: ({ signal }) => call(getDoorNews, {}, undefined, { signal }),
});
export const issuerQuery = queryOptions({
  queryKey: ["issuer"],
  queryFn: ({ signal }) => call(getIssuer, {}, undefined, { signal }),
});
export const waysInQuery = queryOptions({
  queryKey: ["ways-in"],
  queryFn: ({ signal }) => call(getWaysIn, {}, undefined, { signal }),
});
export const codesQuery = queryOptions({
  queryKey: ["codes"],
  queryFn: ({ signal }) => call(getCodes, {}, undefined, { signal }),
});
/** What a link opens; a look again is told as one. */
export const sharedQuery = queryOptions({
  queryKey: ["shared"],
  queryFn: ({ signal, client }) => {
    const again = client.getQueryData(["shared"]) !== undefined;
    return call(getShared, {}, undefined, { signal, ...(again && { query: { again } }) });
  },
  refetchOnWindowFocus: false,
});
export const linksQuery = queryOptions({
  queryKey: ["links"],
  queryFn: ({ signal }) => call(listLinks, {}, undefined, { signal }),
});
/** Health needs no sign-in, and is an answer also where it is not good. */
export const healthQuery = queryOptions({
  queryKey: ["health"],
  queryFn: async ({ signal }): Promise<Health> =>
    (await fetch(apiAddress(getHealth.path), { signal, priority: "low" })).json(),
  refetchInterval: toldEveryMs,
  retry: false,
});
/** Null where this is no sample world; asked on while its past is being written. */
export const demoQuery = queryOptions({
  queryKey: ["demo"],
  queryFn: ({ signal }) => call(getDemo, {}, undefined, { signal, isAside: true }),
  refetchInterval: ({ state }) => (state.data && state.data.progress < 1 ? 2000 : false),
  staleTime: 60_000,
});
/** What happened between two moments; the last of them belongs to it. */
export const eventsQuery = (fromMs: number, toMs: number) =>
  queryOptions({
    queryKey: ["events", fromMs, toMs],
    queryFn: ({ signal }) =>
      call(listEvents, {}, undefined, { query: { from: Math.floor(fromMs), to: Math.ceil(toMs) + 1 }, signal }),
    placeholderData: keepPreviousData,
  });
/** Windows that move on by seconds ask for the same events. */
const eventsRoundedMs = 10_000;
export const windowEventsQuery = ({ fromMs, toMs }: Span) =>
  eventsQuery(
    Math.floor(fromMs / eventsRoundedMs) * eventsRoundedMs,
    Math.ceil(toMs / eventsRoundedMs) * eventsRoundedMs,
  );
export const costsQuery = queryOptions({
  queryKey: ["costs"],
  queryFn: ({ signal }) => call(getCosts, {}, undefined, { signal }),
  refetchInterval: 10_000,
});
export const slownessQuery = queryOptions({
  queryKey: ["slowness"],
  queryFn: ({ signal }) => call(getSlowness, {}, undefined, { signal }),
  refetchInterval: 30_000,
});
export const conditionQuery = queryOptions({
  queryKey: ["condition"],
  queryFn: ({ signal }) => call(getCondition, {}, undefined, { signal }),
  refetchInterval: 5000,
});
export const setupQuery = queryOptions({ queryKey: ["setup"], queryFn: () => call(getSetup, {}) });
export const machinesQuery = queryOptions({
  queryKey: ["machines"],
  queryFn: ({ signal }) => call(listMachines, {}, undefined, { signal }),
  // the first is waited for
  refetchInterval: ({ state }) => (state.data?.length === 0 ? 2000 : toldEveryMs),
});
/** The colour of each machine, the same everywhere. Charts read it from what is fetched for the fleet. */
export const machineColoursQuery = queryOptions({
  ...machinesQuery,
  select: (machines) => new Map(machines.map(({ name, colour }) => [name, colour])),
  staleTime: 60_000,
  refetchInterval: false,
});
export const countersQuery = queryOptions({
  queryKey: ["counters"],
  queryFn: ({ signal }) => call(listCounters, {}, undefined, { signal }),
  staleTime: 60_000,
});
/** Which values of some tags occur together among what reports of some counters. */
export const tagsQuery = (tags: readonly string[], counters: readonly string[]) =>
  queryOptions({
    queryKey: ["tags", tags, counters],
    queryFn: ({ signal }) => call(getTags, {}, undefined, { query: { tag: tags, counter: counters }, signal }),
    placeholderData: keepPreviousData,
    staleTime: 30_000,
  });
export const counterQuery = (name: string) =>
  queryOptions({
    queryKey: ["counters", name],
    queryFn: ({ signal }) => call(getCounter, { name }, undefined, { signal }),
    staleTime: 10_000,
    refetchInterval: 15_000,
    retry: false,
  });
export const samplesQuery = (id: number, fromMs: number, toMs: number) =>
  queryOptions({
    queryKey: ["samples", id, fromMs, toMs],
    queryFn: ({ signal }) =>
      call(getSamples, { id }, undefined, { query: { from: Math.floor(fromMs), to: Math.ceil(toMs) }, signal }),
    placeholderData: keepPreviousData,
    gcTime: 30_000,
  });
export const rulesQuery = queryOptions({
  queryKey: ["rules"],
  queryFn: ({ signal }) => call(listRules, {}, undefined, { signal }),
  refetchInterval: pushedEveryMs,
});

/** The same where their present values are shown. */
export const ruleValuesQuery = queryOptions({ ...rulesQuery, refetchInterval: 5000 });

export const recordingsQuery = queryOptions({
  queryKey: ["recordings"],
  queryFn: ({ signal }) => call(listRecordings, {}, undefined, { signal }),
  refetchInterval: 30_000,
});
export const runsQuery = (id: number) =>
  queryOptions({
    queryKey: ["recordings", id, "runs"],
    queryFn: ({ signal }) => call(listRuns, { id }, undefined, { signal }),
    refetchInterval: 10_000,
  });
/** The runs that are on, everywhere. */
export const runningQuery = queryOptions({
  queryKey: ["recordings", "running"],
  queryFn: ({ signal }) => call(listRunning, {}, undefined, { signal, isAside: true }),
  refetchInterval: ({ state }) => ((state.data?.length ?? 0) > 0 ? pushedEveryMs : 30_000),
});
export const runQuery = (id: number, run: number) =>
  queryOptions({
    queryKey: ["recordings", id, "runs", run],
    queryFn: ({ signal }) => call(getRun, { id, run }, undefined, { signal }),
    refetchInterval: ({ state }) => (state.data && state.data.endedAtMs === null ? 2000 : false),
    retry: false,
  });

export const dashboardsQuery = queryOptions({
  queryKey: ["dashboards"],
  queryFn: ({ signal }) => call(listDashboards, {}, undefined, { signal }),
});
export const dashboardQuery = (id: number) =>
  queryOptions({
    queryKey: ["dashboards", id],
    queryFn: ({ signal }) => call(getDashboard, { id }, undefined, { signal }),
  });
export const dashboardVersionsQuery = (id: number) =>
  queryOptions({
    queryKey: ["dashboards", id, "versions"],
    queryFn: ({ signal }) => call(listVersions, { id }, undefined, { signal }),
  });

export const briefingQuery = queryOptions({
  queryKey: ["briefing"],
  queryFn: ({ signal }) => call(getBriefing, {}, undefined, { signal }),
  refetchInterval: 30_000,
});

export const machineQuery = (name: string) =>
  queryOptions({
    queryKey: ["machines", name],
    queryFn: ({ signal }) => call(getMachine, { name }, undefined, { signal }),
    refetchInterval: 5000,
  });

/** A reading keeps what it showed while a newer window is fetched. */
export const readingQuery = (document: ReadingDocument) =>
  queryOptions({
    queryKey: ["reading", document],
    queryFn: ({ signal }) => askReading({ zone: viewerZone, ...document }, signal),
    placeholderData: keepPreviousData,
    staleTime: 4000,
    gcTime: 30_000,
  });

export const incidentsQuery = (fromMs: number, toMs: number) =>
  queryOptions({
    queryKey: ["incidents", fromMs, toMs],
    queryFn: ({ signal }) =>
      call(listIncidents, {}, undefined, { query: { from: Math.floor(fromMs), to: Math.ceil(toMs) }, signal }),
    placeholderData: keepPreviousData,
  });

export const incidentQuery = (id: number) =>
  queryOptions({
    queryKey: ["incidents", "one", id],
    queryFn: ({ signal }) => call(getIncident, { id }, undefined, { signal }),
    refetchInterval: 10_000,
  });
export const alertingQuery = queryOptions({
  queryKey: ["alerting"],
  queryFn: ({ signal }) => call(getAlerting, {}, undefined, { signal, isAside: true }),
  refetchInterval: pushedEveryMs,
});
export const recipientsQuery = queryOptions({
  queryKey: ["recipients"],
  queryFn: ({ signal }) => call(listRecipients, {}, undefined, { signal }),
  refetchInterval: 15_000,
});
export const forwardsQuery = queryOptions({
  queryKey: ["forwards"],
  queryFn: ({ signal }) => call(listForwards, {}, undefined, { signal }),
  refetchInterval: 5000,
});
export const messagesQuery = queryOptions({
  queryKey: ["messages"],
  queryFn: ({ signal }) => call(listMessages, {}, undefined, { query: { most: 100 }, signal }),
  refetchInterval: 5000,
});
export const quietTimesQuery = queryOptions({
  queryKey: ["quiet-times"],
  queryFn: ({ signal }) => call(listQuietTimes, {}, undefined, { signal }),
  refetchInterval: 15_000,
});

/** What is raised now, of rules and of silent sources. */
export const raisedQuery = queryOptions({
  queryKey: ["incidents", "open"],
  queryFn: async ({ signal }) =>
    (
      await call(listIncidents, {}, undefined, {
        query: { from: Date.now() - 1, to: Date.now() },
        signal,
        isAside: true,
      })
    ).filter(({ clearedAtMs }) => clearedAtMs === null),
  refetchInterval: pushedEveryMs,
});

export const densityQuery = (fromMs: number, toMs: number) =>
  queryOptions({
    queryKey: ["density", fromMs, toMs],
    queryFn: ({ signal }) =>
      call(getDensity, {}, undefined, {
        query: { from: Math.floor(fromMs), to: Math.ceil(toMs), parts: railParts },
        signal,
        isAside: true,
      }),
    placeholderData: keepPreviousData,
  });

export const sourcesQuery = queryOptions({
  queryKey: ["sources"],
  queryFn: ({ signal }) => call(listSources, {}, undefined, { signal }),
  refetchInterval: 3000,
});
export const tokensQuery = queryOptions({
  queryKey: ["tokens"],
  queryFn: ({ signal }) => call(listTokens, {}, undefined, { signal }),
  refetchInterval: 30_000,
});
export const limitsQuery = queryOptions({
  queryKey: ["intake-limits"],
  queryFn: ({ signal }) => call(getLimits, {}, undefined, { signal }),
});

export const transportQuery = queryOptions({
  queryKey: ["transport"],
  queryFn: ({ signal }) => call(getTransport, {}, undefined, { signal }),
  staleTime: 60_000,
});

export const spellsQuery = (id: number, fromMs: number, toMs: number) =>
  queryOptions({
    queryKey: ["sources", id, "spells", fromMs, toMs],
    queryFn: ({ signal }) =>
      call(listSpells, { id }, undefined, { query: { from: Math.floor(fromMs), to: Math.ceil(toMs) }, signal }),
    placeholderData: keepPreviousData,
    staleTime: 4000,
    gcTime: 30_000,
  });

export const tariffsQuery = queryOptions({
  queryKey: ["tariffs"],
  queryFn: ({ signal }) => call(listTariffs, {}, undefined, { signal }),
});
export const planningSettingsQuery = queryOptions({
  queryKey: ["planning", "settings"],
  queryFn: ({ signal }) => call(getPlanningSettings, {}, undefined, { signal }),
});
export const spaceQuery = queryOptions({
  queryKey: ["planning", "space"],
  queryFn: ({ signal }) => call(getSpace, {}, undefined, { signal }),
  staleTime: 300_000,
});
