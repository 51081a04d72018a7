/** A policy of the server's takes no style out of a text; it is put in again by script. */
const styleKept = "data-kept-style";

/**
 * The elements of a page as HTML: drawings on the screen as pictures, which take `drawingsMs` at the most, the others
 * left empty; nothing that somebody typed, and nothing that can be pressed but links.
 */
export function htmlOfPage(root: HTMLElement, drawingsMs: number): string {
  const copy = root.cloneNode(true) as HTMLElement;
  const drawings = root.querySelectorAll("canvas");
  const until = performance.now() + drawingsMs;
  copy.querySelectorAll("canvas").forEach((canvas, index) => {
    const drawn = drawings[index] as HTMLCanvasElement;
    const { top, bottom } = drawn.getBoundingClientRect();
    const isSeen = bottom > 0 && top < innerHeight && performance.now() < until;
    const picture = document.createElement(isSeen ? "img" : "div");
    picture.className = canvas.className;
    picture.style.cssText = canvas.style.cssText;
    picture.style.width = `${drawn.clientWidth}px`;
    picture.style.height = `${drawn.clientHeight}px`;
    if (isSeen) {
      picture.setAttribute("alt", "");
      picture.setAttribute("src", drawn.toDataURL("image/webp"));
    }
    canvas.replaceWith(picture);
  });
  for (const pressed of copy.querySelectorAll("button, input, select, textarea")) pressed.setAttribute("disabled", "");
  for (const typed of copy.querySelectorAll("input")) typed.removeAttribute("value");
  for (const typed of copy.querySelectorAll("textarea")) typed.textContent = "";
  for (const styled of copy.querySelectorAll("[style]")) {
    styled.setAttribute(styleKept, styled.getAttribute("style") as string);
    styled.removeAttribute("style");
  }
  return copy.innerHTML;
}

/** Puts the elements of such a text into `place`. */
export function fillFromHtml(place: ParentNode & { innerHTML: string }, html: string): void {
  place.innerHTML = html;
  for (const styled of place.querySelectorAll<HTMLElement>(`[${styleKept}]`))
    styled.style.cssText = styled.getAttribute(styleKept) as string;
}
