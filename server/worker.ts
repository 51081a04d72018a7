import { departures, departuresKind } from "./differences/departures.ts";
import { readBody, readBodyKind } from "./intake/read-body.ts";
import { searchFitKind, searchFitWork } from "./planning/fit/search-work.ts";
import { readRunKind, workOutRun } from "./recordings/run-work.ts";
import { rehearsePast, rehearsePastKind } from "./rules/rehearse-past.ts";
import { storeWork } from "./store/tasks/store-work.ts";
import { serveWork } from "./work/serve-work.ts";
import { worked } from "./work/work-kind.ts";

// A worker thread of the server: all the heavy work that there is, each from the room that owns it.
serveWork([
  ...storeWork(),
  worked(rehearsePastKind, (_place, given) => rehearsePast(given)),
  worked(departuresKind, (_place, given) => departures(given)),
  worked(searchFitKind, (_place, given) => searchFitWork(given)),
  worked(readRunKind, (_place, given) => workOutRun(given)),
  worked(readBodyKind, (_place, given) => readBody(given)),
]);
