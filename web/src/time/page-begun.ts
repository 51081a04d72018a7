/** Windows that follow now end at a whole second: pages that move on together ask for the same then. */
export const wholeSecondMs = (ms: number): number => Math.ceil(ms / 1000) * 1000;

/** When the page's code began to run, ms: the first window that follows now ends then, also what is asked for ahead. */
export const pageBegunMs = wholeSecondMs(Date.now());
const soonMs = 3000;

/** Now, as the page shows it when it is drawn for the first time. */
export function firstNowMs(): number {
  const nowMs = wholeSecondMs(Date.now());
  return nowMs - pageBegunMs < soonMs ? pageBegunMs : nowMs;
}
