import * as alerting from "./alerting.ts";
import * as audit from "./audit.ts";
import * as briefing from "./briefing.ts";
import * as condition from "./condition.ts";
import * as costs from "./costs.ts";
import * as slowness from "./slowness.ts";
import * as counters from "./counters.ts";
import * as dashboards from "./dashboards.ts";
import * as differences from "./differences.ts";
import * as energy from "./energy.ts";
import * as events from "./events.ts";
import * as fit from "./fit.ts";
import * as forwards from "./forwards.ts";
import * as incidents from "./incidents.ts";
import * as issuer from "./issuer.ts";
import * as links from "./links.ts";
import * as machines from "./machines.ts";
import * as messages from "./messages.ts";
import * as month from "./month.ts";
import * as doorNews from "./door-news.ts";
import * as places from "./places.ts";
import * as passkeys from "./passkeys.ts";
import * as people from "./people.ts";
import * as problems from "./problem-types.ts";
import * as quiet from "./quiet.ts";
import * as readings from "./readings.ts";
import * as recordings from "./recordings.ts";
import * as rules from "./rules.ts";
import * as sample from "./demo.ts";
import * as sources from "./sources.ts";
import * as space from "./space.ts";
import * as steadiness from "./steadiness.ts";
import * as tokens from "./tokens.ts";
import * as transport from "./transport.ts";
import * as watching from "./watching.ts";
import * as windowsCounters from "./windows-counters.ts";
import type { Route } from "./route.ts";

const subjects: readonly Readonly<Record<string, unknown>>[] = [
  alerting,
  audit,
  briefing,
  condition,
  costs,
  counters,
  dashboards,
  differences,
  energy,
  events,
  fit,
  forwards,
  incidents,
  issuer,
  links,
  machines,
  messages,
  month,
  passkeys,
  places,
  doorNews,
  people,
  problems,
  quiet,
  readings,
  recordings,
  rules,
  sample,
  slowness,
  sources,
  space,
  steadiness,
  tokens,
  transport,
  watching,
  windowsCounters,
];

const isRoute = (value: unknown): value is Route =>
  typeof value === "object" && value !== null && "method" in value && "path" in value;

/** Every route by its name; names are their own over all subjects. */
export const everyRoute: ReadonlyMap<string, Route> = new Map(
  subjects.flatMap((subject) => Object.entries(subject).filter((entry): entry is [string, Route] => isRoute(entry[1]))),
);
