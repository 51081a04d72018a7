import { type RefObject, useLayoutEffect, useState } from "react";

/** The width of an element in px, kept up to date; `usual` until the element stands in the page. */
export function useWidth(element: RefObject<HTMLElement | null>, usual = 1200): number {
  const [width, setWidth] = useState(usual);
  useLayoutEffect(() => {
    const place = element.current;
    if (!place) return;
    const take = () => setWidth(place.clientWidth);
    take(); // before anything is painted: what stands in it is not laid out twice
    const observer = new ResizeObserver(take);
    observer.observe(place);
    return () => observer.disconnect();
  }, [element]);
  return width;
}
