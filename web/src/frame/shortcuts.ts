import { useEffect } from "react";

/** Everything that a key does, wherever no text is being typed. */
export const shortcuts = [
  { keys: ["/", "Ctrl K"], joined: "or", words: "find machines, counters, rules, actions" },
  { keys: ["?"], words: "show these keys" },
  { keys: ["1", "8"], joined: "to", words: "the window is 5 min to 90 days long" },
  { keys: ["["], words: "a window back" },
  { keys: ["]"], words: "a window forth" },
  { keys: ["w"], words: "a window twice as long" },
  { keys: ["e"], words: "a window half as long" },
  { keys: ["u"], words: "take back the last change of the window" },
  { keys: ["n"], words: "follow now" },
  { keys: ["+"], words: "the rail shows less, nearer" },
  { keys: ["-"], words: "the rail shows more, farther" },
  { keys: ["<"], words: "the rail moves back" },
  { keys: [">"], words: "the rail moves forth" },
  { keys: ["z", "Z"], joined: "and", words: "while a dashboard is edited: undo, and do it again" },
  { keys: ["←", "→"], words: "move the bracket of the rail that has the focus; with Shift farther" },
  { keys: ["Shift"], words: "while a chart is brushed: note what happened then" },
] as const;

/** Fields take their own keys; so does whatever stands over the page: a sheet, a choice of the sentence, a menu. */
const isTyping = (target: EventTarget | null) =>
  target instanceof HTMLElement &&
  (target.isContentEditable ||
    target.closest(
      "input:not([type=checkbox], [type=radio]), textarea, select, [role=option], [role=menu], [role=dialog], dialog",
    ) !== null);

/**
 * Calls `run` with each key that is pressed alone, while nothing is being typed; a true answer means that it was of
 * use.
 */
export function useKeys(run: (key: string) => boolean): void {
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (event.ctrlKey || event.metaKey || event.altKey || event.defaultPrevented || isTyping(event.target)) return;
      if (run(event.key)) event.preventDefault();
    };
    addEventListener("keydown", onKey);
    return () => removeEventListener("keydown", onKey);
  }, [run]);
}
