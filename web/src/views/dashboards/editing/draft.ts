import { useCallback, useEffect, useState } from "react";
import type { DashboardView } from "../../../../../core/api/dashboards.ts";
import { draftPlace } from "../../../frame/drafts-place.ts";
import type { Dashboard } from "../../../../../core/dashboards/dashboard.ts";

/** A dashboard that is being changed: what it is now, what it was, and the version it was made from. */
export interface Draft {
  readonly document: Dashboard;
  /** Of the saved one that it began with. */
  readonly revision: number;
  readonly past: readonly Dashboard[];
  readonly future: readonly Dashboard[];
}

const mostPast = 100;

export const draftOf = ({ document, revision }: Pick<DashboardView, "document" | "revision">): Draft => ({
  document,
  revision,
  past: [],
  future: [],
});
export const changedDraft = (draft: Draft, document: Dashboard): Draft =>
  document === draft.document
    ? draft
    : { ...draft, document, past: [...draft.past.slice(-mostPast + 1), draft.document], future: [] };

export function undone(draft: Draft): Draft {
  const before = draft.past.at(-1);
  return before === undefined
    ? draft
    : { ...draft, document: before, past: draft.past.slice(0, -1), future: [draft.document, ...draft.future] };
}

export function redone(draft: Draft): Draft {
  const [next, ...future] = draft.future;
  return next === undefined ? draft : { ...draft, document: next, past: [...draft.past, draft.document], future };
}

export interface DraftControl {
  readonly draft: Draft | null;
  begin(saved: DashboardView): void;
  change(document: Dashboard): void;
  undo(): void;
  redo(): void;
  /** The draft is let go: it was saved, or is not wanted. */
  drop(): void;
  /** One that was dropped is there again, also where its page was left meanwhile. */
  takeBack(draft: Draft): void;
}

/** The draft of a dashboard. It is kept in this browser until it is saved or dropped: who leaves finds it again. */
export function useDraft(id: number): DraftControl {
  const [draft, setDraft] = useState<Draft | null>(() => read(id));
  useEffect(() => setDraft(read(id)), [id]);
  const keep = useCallback(
    (next: (before: Draft | null) => Draft | null) =>
      setDraft((before) => {
        const made = next(before);
        write(id, made);
        return made;
      }),
    [id],
  );
  return {
    draft,
    begin: useCallback((saved: DashboardView) => keep(() => draftOf(saved)), [keep]),
    change: useCallback((document: Dashboard) => keep((before) => before && changedDraft(before, document)), [keep]),
    undo: useCallback(() => keep((before) => before && undone(before)), [keep]),
    redo: useCallback(() => keep((before) => before && redone(before)), [keep]),
    drop: useCallback(() => keep(() => null), [keep]),
    takeBack: useCallback(
      (dropped: Draft) => {
        write(id, dropped);
        setDraft(dropped);
      },
      [id],
    ),
  };
}

function read(id: number): Draft | null {
  try {
    const kept = JSON.parse(localStorage.getItem(draftPlace(id)) ?? "null") as Pick<
      Draft,
      "document" | "revision"
    > | null;
    return kept && Array.isArray(kept.document?.tiles) ? draftOf(kept) : null;
  } catch {
    return null;
  }
}

/** What can be taken back is not kept: it is the person's memory of one sitting. */
function write(id: number, draft: Draft | null): void {
  try {
    if (draft)
      localStorage.setItem(draftPlace(id), JSON.stringify({ document: draft.document, revision: draft.revision }));
    else localStorage.removeItem(draftPlace(id));
  } catch {
    // It holds until the page is left.
  }
}
