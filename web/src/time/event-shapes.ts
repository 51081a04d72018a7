import type { MachineEvent } from "../../../core/events/machine-event.ts";

/** What an event is drawn as, in a field of eight by eight. */
export interface EventShape {
  readonly path: string;
  /** The sort of event in a word, for who does not see the shape. */
  readonly words: string;
}

const noted: EventShape = { path: "M1.5 1.5h5v5h-5z", words: "note" };
const ended: EventShape = { path: "M.5 1.5h7L4 7z", words: "ended" };
const begun: EventShape = { path: "M4 1 7.5 6.5h-7z", words: "began" };
const mains: EventShape = { path: "M4 0 8 4 4 8 0 4z", words: "power" };
const told: EventShape = { path: "M4 .5a3.5 3.5 0 1 0 0 7a3.5 3.5 0 1 0 0-7z", words: "told by a script" };
const several: EventShape = { path: "M0 1.5h3.2v5H0zM4.8 1.5H8v5H4.8z", words: "several" };

const byKind: readonly (readonly [RegExp, EventShape])[] = [
  [/^note$/, noted],
  [/power|mains|battery/, mains],
  [/died|stop|kill|silen|unhealthy|memory|lost|gone|end/, ended],
  [/start|creat|boot|back|up$/, begun],
];

/** By the kind of all of them; events of unlike kinds that lie on one another have a shape of their own. */
export function eventShape(events: readonly Pick<MachineEvent, "kind">[]): EventShape {
  const shapes = new Set(events.map(({ kind }) => byKind.find(([pattern]) => pattern.test(kind))?.[1] ?? told));
  return shapes.size === 1 ? ([...shapes][0] as EventShape) : several;
}
