// What a browser keeps of pages that were looked at: how they stood, as text of their elements. It is shown while the
// server has not answered yet, or does not answer at all.

/** A page as it stood. */
export interface KeptPage {
  readonly path: string;
  /** What of its address says which window and what of it: "?last=3600". */
  readonly search: string;
  readonly title: string;
  /** When it stood so, in the viewer's words: "Mon 2026-11-30 13:02". */
  readonly stood: string;
  readonly stoodMs: number;
  readonly theme: string;
  /** Elements as HTML, by `html-of-page.ts`. */
  readonly html: string;
}

const prefix = "nubrel.kept.";
/** A browser keeps some five million letters for a server, drafts and settings among them. */
const mostPages = 8;
const mostLetters = 300_000;
const keptForMs = 30 * 86_400_000;

/** Keeps a page in place of what was kept of its path, and lets go of the oldest where they become many. */
export function keepPage(page: KeptPage): void {
  if (page.html.length > mostLetters) return;
  try {
    localStorage.setItem(prefix + page.path, JSON.stringify(page));
    for (const { path } of keptPages(page.stoodMs).slice(mostPages)) localStorage.removeItem(prefix + path);
  } catch {
    forgetKeptPages(); // full, or nothing may be kept here: what people began and have not saved goes before
  }
}

/** What is kept of a path, and undefined where it is of another window. */
export function keptPage({ pathname, search }: { pathname: string; search: string }): KeptPage | undefined {
  const page = read(prefix + pathname);
  return page?.search === search ? page : undefined;
}

/** All that is kept, the newest first; what is older than a month is let go of. */
export function keptPages(nowMs: number): readonly KeptPage[] {
  const pages: KeptPage[] = [];
  for (const key of keys()) {
    const page = read(key);
    if (page && nowMs - page.stoodMs < keptForMs) pages.push(page);
    else localStorage.removeItem(key);
  }
  return pages.sort((a, b) => b.stoodMs - a.stoodMs);
}

/** Lets go of all of it, as when somebody signs out. */
export function forgetKeptPages(): void {
  for (const key of keys()) localStorage.removeItem(key);
}

function keys(): readonly string[] {
  try {
    return Object.keys(localStorage).filter((key) => key.startsWith(prefix));
  } catch {
    return []; // this browser keeps nothing
  }
}

function read(key: string): KeptPage | undefined {
  try {
    const page = JSON.parse(localStorage.getItem(key) ?? "null") as KeptPage | null;
    return typeof page?.html === "string" ? page : undefined;
  } catch {
    return undefined;
  }
}
