import type { Request } from "express";
import type { Tags } from "../../core/counters/counter.ts";

/**
 * What somebody sees of counters who reads dashboards alone: which counters, the tags whose values they may pick from,
 * and of which series. Undefined for everybody else.
 */
export type ShownTo = (request: Request) => Promise<
  | {
      readonly counters: ReadonlySet<string>;
      readonly tags: ReadonlySet<string>;
      offers(counter: string, tags: Tags): boolean;
    }
  | undefined
>;
