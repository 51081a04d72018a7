import { handingOver } from "./messages/handing-over.ts";
import { tellDoorNews } from "./audit/door-news.ts";
import type { startJobs } from "./jobs/jobs.ts";
import type { Alerting } from "./alerting/alerting.ts";
import { forgetDeeds } from "./audit/audit-rows.ts";
import type { ServerClock } from "./clock/server-clock.ts";
import type { Database } from "./db/pool.ts";
import { type SendingParts, sendMonthWhereDue } from "./planning/month/month-sending.ts";
import { forgetEvents } from "./events/event-rows.ts";
import { forgetIncidents } from "./rules/incident-rows.ts";
import { readRetention } from "./store/retention.ts";
import type { Store } from "./store/store.ts";

const dayMs = 86_400_000;
/** Who did what is kept so long. */
const auditDays = 400;

interface TaskParts {
  readonly database: Database;
  readonly store: Store;
  readonly clock: ServerClock;
  readonly alerting: Alerting;
  readonly planning: SendingParts;
}

/** What the durable jobs do: upkeep of what is kept, messages, and the month. */
export function tasksOf({ database, store, clock, alerting, planning }: TaskParts): Parameters<typeof startJobs>[1] {
  return {
    maintain: async () => {
      await store.maintain();
      const keptFromMs = clock.actingMs() - (await readRetention(database)).hourDays * dayMs;
      await forgetIncidents(database, keptFromMs);
      await forgetEvents(database, keptFromMs);
      await forgetDeeds(database, clock.actingMs() - auditDays * dayMs);
    },
    tell_door_news: () => tellDoorNews(database, handingOver(planning), clock.actingMs()),
    send_month: () => sendMonthWhereDue(planning, clock.actingMs()),
    deliver: (payload, { job }) =>
      alerting.deliverer.deliver((payload as { message: string }).message, job.attempts, job.max_attempts),
  };
}
