/** When the page's code began to run, ms: the first window that follows now ends then, also what is asked for ahead. */
export const pageBegunMs = Date.now();
const soonMs = 3000;

/** Now, as the page shows it when it is drawn for the first time. */
export function firstNowMs(): number {
  const nowMs = Date.now();
  return nowMs - pageBegunMs < soonMs ? pageBegunMs : nowMs;
}
