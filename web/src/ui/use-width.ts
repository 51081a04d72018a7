import { type RefObject, useEffect, useState } from "react";

/** The width of an element in px, kept up to date; `usual` before it is known. */
export function useWidth(element: RefObject<HTMLElement | null>, usual = 1200): number {
  const [width, setWidth] = useState(usual);
  useEffect(() => {
    const place = element.current;
    if (!place) return;
    const observer = new ResizeObserver(() => setWidth(place.clientWidth));
    observer.observe(place);
    return () => observer.disconnect();
  }, [element]);
  return width;
}
