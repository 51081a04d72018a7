import type { Dashboard } from "./dashboard.ts";

/** A dashboard with a number behind its title where another has that title: "On air", "On air 2", "On air 3". */
export function toldApart(dashboard: Dashboard, titles: readonly string[]): Dashboard {
  const taken = new Set(titles);
  if (!taken.has(dashboard.title)) return dashboard;
  const base = dashboard.title.replace(/ \d+$/, "");
  let n = 2;
  while (taken.has(`${base} ${n}`)) n++;
  return { ...dashboard, title: `${base} ${n}` };
}
