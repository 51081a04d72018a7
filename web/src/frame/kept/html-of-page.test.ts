// @vitest-environment jsdom
import { expect, test, vi } from "vitest";
import { fillFromHtml, htmlOfPage } from "./html-of-page.ts";

function rootOf(html: string): HTMLElement {
  const root = document.createElement("div");
  root.innerHTML = html;
  document.body.replaceChildren(root);
  return root;
}

test("places and colours come back though no style may stand in a text", () => {
  const html = htmlOfPage(rootOf('<p style="left: 12px; color: red">busy</p>'), 0);
  expect(html).not.toMatch(/[ "]style=/);
  const place = document.createElement("div");
  fillFromHtml(place, html);
  expect((place.firstElementChild as HTMLElement).style.left).toBe("12px");
});

test("nothing that somebody typed is in it, and nothing can be pressed but links", () => {
  const root = rootOf(
    '<form><input value="as served"><textarea>begun</textarea><select><option>1 h</option></select><button>Save</button></form><a href="/counters">counters</a>',
  );
  (root.querySelector("input") as HTMLInputElement).value = "kestrel";
  const html = htmlOfPage(root, 1000);
  expect(html).not.toMatch(/kestrel|as served|begun/);
  expect(html.match(/disabled/g)).toHaveLength(4);
  expect(html).toContain('<a href="/counters">');
  // The page itself is as it was.
  expect(root.querySelectorAll("[disabled]")).toHaveLength(0);
  expect((root.querySelector("textarea") as HTMLTextAreaElement).textContent).toBe("begun");
});

test("a drawing is a picture of it; one that is off the screen keeps its place", () => {
  const root = rootOf('<canvas class="block w-full"></canvas><canvas class="block"></canvas>');
  const [near, far] = [...root.querySelectorAll("canvas")] as [HTMLCanvasElement, HTMLCanvasElement];
  for (const [canvas, top] of [
    [near, 10],
    [far, 9000],
  ] as const) {
    vi.spyOn(canvas, "getBoundingClientRect").mockReturnValue({ top, bottom: top + 100 } as DOMRect);
    vi.spyOn(canvas, "toDataURL").mockReturnValue("data:image/webp;base64,AAAA");
  }
  const place = document.createElement("div");
  fillFromHtml(place, htmlOfPage(root, 1000));
  const [picture, empty] = place.children;
  expect(picture?.getAttribute("src")).toBe("data:image/webp;base64,AAAA");
  expect(picture?.className).toBe("block w-full");
  expect([empty?.tagName, empty?.className]).toEqual(["DIV", "block"]);
});

test("what is said in the page stays what is said: nothing of it becomes an element", () => {
  const root = rootOf("<p></p>");
  (root.firstElementChild as HTMLElement).textContent = '<img src=x onerror="alert(1)">';
  const place = document.createElement("div");
  fillFromHtml(place, htmlOfPage(root, 1000));
  expect(place.querySelector("img")).toBeNull();
  expect(place.textContent).toBe('<img src=x onerror="alert(1)">');
});
