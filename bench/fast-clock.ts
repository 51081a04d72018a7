/**
 * A script for a page, run before its own: its clock began `fromMs` at the real moment `realMs` and goes `times` as fast;
 * what it plans by the clock comes so much sooner. Left as they are: pauses under a second, by which it draws, and those
 * of the live stream, whose other end goes by the real clock.
 */
export function fastClock(fromMs: number, realMs: number, times: number, real: readonly number[]): string {
  return `(() => {
    const RealDate = Date;
    const now = () => Math.floor(${fromMs} + (RealDate.now() - ${realMs}) * ${times});
    window.Date = class extends RealDate {
      constructor(...parts) { if (parts.length === 0) super(now()); else super(...parts); }
      static now() { return now(); }
    };
    for (const name of ["setTimeout", "setInterval"]) {
      const plain = window[name].bind(window);
      window[name] = (work, ms, ...rest) =>
        plain(work, ms >= 1000 && !${JSON.stringify(real)}.includes(ms) ? ms / ${times} : ms, ...rest);
    }
  })()`;
}
