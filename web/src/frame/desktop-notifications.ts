import { incidentText } from "../../../core/rules/incident-text.ts";
import type { IncidentView } from "../../../core/rules/rule.ts";

/** What this browser does beside showing a notice on the page; it is this browser's, not the person's. */
export interface DesktopWish {
  readonly isShown: boolean;
  readonly isHeard: boolean;
}

const key = "nubrel.desktop";

export function desktopWish(): DesktopWish {
  try {
    return {
      isShown: false,
      isHeard: false,
      ...(JSON.parse(localStorage.getItem(key) ?? "{}") as Partial<DesktopWish>),
    };
  } catch {
    return { isShown: false, isHeard: false };
  }
}

/** Whether a hidden tab is to go on hearing of incidents. */
export function wantsDesktop(): boolean {
  const { isShown, isHeard } = desktopWish();
  return isShown || isHeard;
}

export function setDesktopWish(wish: DesktopWish): void {
  try {
    localStorage.setItem(key, JSON.stringify(wish));
  } catch {
    // It holds until the page is left.
  }
}

/**
 * Has the system show a raised incident, and makes a sound, as far as wanted. `open` is called when the notice is
 * pressed.
 */
export function tellDesktop(incident: IncidentView, open: () => void): void {
  const { isShown, isHeard } = desktopWish();
  if (isShown && typeof Notification !== "undefined" && Notification.permission === "granted") {
    const notice = new Notification(`${incident.severity}: ${incident.ruleName}`, {
      body: incidentText(incident, "raised"),
      tag: `nubrel-${incident.id}`,
    });
    notice.onclick = () => {
      window.focus();
      open();
      notice.close();
    };
  }
  if (isHeard) sound(incident.severity === "urgent" ? 2 : 1);
}

/** A short tone, or two: made here, so that nothing is fetched. */
function sound(times: number): void {
  const context = new AudioContext();
  for (let i = 0; i < times; i++) {
    const tone = context.createOscillator();
    const level = context.createGain();
    const at = context.currentTime + i * 0.25;
    tone.frequency.value = 660;
    level.gain.setValueAtTime(0, at);
    level.gain.linearRampToValueAtTime(0.15, at + 0.02);
    level.gain.exponentialRampToValueAtTime(0.001, at + 0.2);
    tone.connect(level).connect(context.destination);
    tone.start(at);
    tone.stop(at + 0.22);
  }
  setTimeout(() => void context.close(), 1500);
}
