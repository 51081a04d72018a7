import { type RefObject, useEffect, useState } from "react";

/** True from when an element has once come within half a screen of what is seen (or is to be printed). */
export function useNearScreen(place: RefObject<HTMLElement | null>): boolean {
  const [isNear, setIsNear] = useState(false);
  useEffect(() => {
    const element = place.current;
    if (isNear || !element) return;
    const see = () => setIsNear(true);
    const watch = new IntersectionObserver((entries) => entries.some(({ isIntersecting }) => isIntersecting) && see(), {
      rootMargin: "50%",
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
