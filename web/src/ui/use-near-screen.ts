import { type RefObject, useLayoutEffect, useState } from "react";
import { isNearScreen } from "./is-near-screen.ts";

/** What is so far from the screen, in screens, is near it. */
const margin = 0.5;

/**
 * True from when an element has once come within half a screen of what is seen (or is to be printed). What is near from
 * the beginning is known before anything is painted: a page asks for its data a frame earlier.
 */
export function useNearScreen(place: RefObject<HTMLElement | null>): boolean {
  const [isNear, setIsNear] = useState(false);
  useLayoutEffect(() => {
    const element = place.current;
    if (isNear || !element) return;
    const see = () => setIsNear(true);
    if (isNearScreen(element, innerWidth * margin, innerHeight * margin)) return see();
    const watch = new IntersectionObserver((entries) => entries.some(({ isIntersecting }) => isIntersecting) && see(), {
      rootMargin: `${margin * 100}%`,
    });
    watch.observe(element);
    addEventListener("beforeprint", see);
    return () => {
      watch.disconnect();
      removeEventListener("beforeprint", see);
    };
  }, [isNear, place]);
  return isNear;
}
