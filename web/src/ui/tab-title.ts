const product = "Nubrel";
let view = "";
let raised = 0;

function write(): void {
  document.title = `${raised === 0 ? "" : `(${raised}) `}${view === "" ? product : `${view} · ${product}`}`;
}

/** Names the browser's tab after a view, until what is answered is called: tabs, history and bookmarks are told apart. */
export function nameTab(words: string): () => void {
  view = words;
  write();
  return () => {
    if (view !== words) return;
    view = "";
    write();
  };
}

/** Has the tab say how many incidents are raised, so that it is seen from another. */
export function countInTab(count: number): void {
  raised = count;
  write();
}
