import type { ContainerFacts } from "../formats/containers/engine.ts";
import { globOf } from "../counters/glob.ts";

/** Which containers are gathered, and what of them becomes a tag. */
export interface ContainerChoice {
  /** The last rule that fits decides; what none fits is taken. Stars stand for any characters. */
  readonly rules: readonly ContainerRule[];
  /** Names of labels that become tags. */
  readonly labels: readonly string[];
  /** Whether the command becomes a tag. */
  readonly command: boolean;
}

export interface ContainerRule {
  readonly do: "take" | "leave";
  readonly by: "name" | "image" | "label";
  /** For a label `name=value`, or its name alone. */
  readonly like: string;
}

export function takesContainer({ rules }: Pick<ContainerChoice, "rules">, facts: ContainerFacts): boolean {
  let taken = true;
  for (const rule of rules) if (fits(rule, facts)) taken = rule.do === "take";
  return taken;
}

function fits({ by, like }: ContainerRule, { name, image, labels }: ContainerFacts): boolean {
  const glob = globOf(like);
  if (by === "name") return glob.match(name) !== undefined;
  if (by === "image") return glob.match(image) !== undefined;
  return Object.entries(labels).some(
    ([label, value]) => glob.match(label) !== undefined || glob.match(`${label}=${value}`) !== undefined,
  );
}
