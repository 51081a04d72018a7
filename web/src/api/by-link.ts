import { basePath } from "./base-path.ts";
// A page that was opened by a link shows its secret with every request, and nothing of whoever is signed in here.

/** The secret of the link that this page was opened by; undefined for people, and where there is no page. */
export const linkSecret = (): string | undefined =>
  /^\/s\/([\w-]+)$/.exec((globalThis.location?.pathname ?? "").slice(basePath.length))?.[1];
