import { fillFromHtml } from "./html-of-page.ts";
import { type KeptPage, keptPage } from "./kept-pages.ts";

// The first script of a page, before the interface: it shows how the page stood when this browser saw it last, until the
// interface has drawn it anew (`until-drawn.ts`). It stands in a tree of its own, so that nothing takes it for the page.

/** As long as this an answer takes on a weak link; later it is said that none has come. */
const usualMs = 3000;

const page = keptPage(location);
if (page) show(page);

function show({ html, stood, theme, title }: KeptPage): void {
  document.documentElement.dataset["theme"] ??= theme;
  document.title = title;
  const host = document.createElement("div");
  host.id = "kept-page";
  host.className = "fixed inset-0 z-40 overflow-auto bg-paper";
  const tree = host.attachShadow({ mode: "open" });
  for (const sheet of document.querySelectorAll("link[rel=stylesheet]")) tree.append(sheet.cloneNode());
  const [elements, said] = [document.createElement("div"), document.createElement("p")];
  fillFromHtml(elements, html);
  said.className = "fixed right-4 bottom-24 z-50 border border-hairline bg-paper px-3 py-1 text-quiet sm:right-7";
  said.textContent = `as it stood ${stood}`;
  // What is pressed meanwhile is meant for the page that is being drawn beneath it.
  host.style.pointerEvents = "none";
  setTimeout(() => {
    host.style.pointerEvents = "auto";
    said.textContent = `Nubrel's server has not answered yet: this is how the page stood ${stood}.`;
    said.setAttribute("role", "status");
  }, usualMs);
  tree.append(elements, said);
  document.body.append(host);
}
