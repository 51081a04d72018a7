let made: string | undefined;

/** Notes what was just made, changed or left, by a name of its own: it takes the focus where it comes to stand. */
export function noteMade(name: string): void {
  made = name;
}

/** For the element of something: focused, once, where it is what was just made. */
export const takesFocus =
  (name: string) =>
  (element: HTMLElement | null): void => {
    if (!element || made !== name) return;
    made = undefined;
    element.focus({ preventScroll: true });
    element.scrollIntoView({ block: "center" });
  };
