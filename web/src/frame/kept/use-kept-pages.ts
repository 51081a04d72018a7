import { useEffect } from "react";
import { useLocation } from "react-router";
import { basePath } from "../../api/base-path.ts";
import { clockTime, dayWithName } from "../../time/moments.ts";
import { htmlOfPage } from "./html-of-page.ts";
import { keepPage } from "./kept-pages.ts";
import { registerShell } from "./register-shell.ts";

/** What is looked at; what is filled in, or shown once, is not kept. */
const lookedAt =
  /^\/(machines\/[^/]+(\/(guests|containers)\/[^/]+)?|counters|dashboards(\/ready-made)?(\/\d+|\/[^/]+)?|alerts(\/incidents\/\d+)?|steadiness|recordings(\/\d+(\/runs\/\d+)?)?|planning(\/\w+)?|wall)?$/;
/** A view that was open so long has been looked at. */
const settledMs = 5000;
/** Kept so lately, it need not be when it is left. */
const againMs = 30_000;
/** What pictures of drawings may take: while nobody does anything, and when a page is left. */
const [restingMs, leavingMs] = [300, 60];

/** Keeps in this browser how the pages stand that are looked at: when they have settled, and when they are left. */
export function useKeptPages(): void {
  const { pathname, search } = useLocation();
  useEffect(() => {
    const timer = setTimeout(registerShell, settledMs);
    return () => clearTimeout(timer);
  }, []);
  useEffect(() => {
    if (!lookedAt.test(pathname)) return;
    let keptMs = Number.NEGATIVE_INFINITY;
    const keep = (drawingsMs: number) => {
      if (performance.now() - keptMs < againMs) return;
      const root = document.getElementById("root");
      if (!root || document.getElementById("kept-page") || root.querySelector("[aria-busy=true]")) return;
      const stoodMs = Date.now();
      keepPage({
        path: basePath + pathname,
        search,
        title: document.title,
        stood: `${dayWithName(stoodMs)} ${clockTime(stoodMs)}`,
        stoodMs,
        theme: document.documentElement.dataset["theme"] ?? "day",
        html: htmlOfPage(root, drawingsMs),
      });
      keptMs = performance.now();
    };
    const leave = () => keep(leavingMs);
    const whenHidden = () => document.hidden && leave();
    const timer = setTimeout(() => idle(() => keep(restingMs)), settledMs);
    addEventListener("pagehide", leave);
    document.addEventListener("visibilitychange", whenHidden);
    return () => {
      clearTimeout(timer);
      removeEventListener("pagehide", leave);
      document.removeEventListener("visibilitychange", whenHidden);
    };
  }, [pathname, search]);
}

/** Some browsers do not tell when they have nothing to do. */
const idle = (work: () => void): unknown =>
  typeof requestIdleCallback === "function" ? requestIdleCallback(work) : setTimeout(work, 0);
