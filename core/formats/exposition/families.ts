import type { FileSeries } from "../../pages/file-series.ts";
import { TextError } from "../../pages/text-error.ts";
import { type CounterKind, counterKinds } from "../../counters/counter.ts";
import { MetricRules, suffixes } from "./metric-rules.ts";
import { type LineHead, unescaped } from "./sample-line.ts";
import { unitOfName, unitOfWord } from "./unit-of-name.ts";

/** openmetrics: OpenMetrics 1.0. text: the older text exposition format 0.0.4. */
export type Dialect = "openmetrics" | "text";

const openMetricsTypes = ["unknown", "gauge", "counter", "stateset", "info", "histogram", "gaugehistogram", "summary"];
const textTypes = ["untyped", "gauge", "counter", "histogram", "summary"];
/** How our own pages say a counter's name, unit and kind: names of this format have no dots. */
const described = /^counter (\S+), unit (\S*), kind (\w+)$/;

interface Family {
  readonly name: string;
  type: string | undefined;
  unit: string | undefined;
  help: string | undefined;
  /** Whether a sample has been read. */
  begun: boolean;
  readonly rules: MetricRules;
}

/** What a sample's line says, given its family. */
export interface SampleSense {
  readonly series: FileSeries;
  /** Its value may not be negative or NaN. */
  readonly grows: boolean;
  /** Its value may be NaN, and not negative. */
  readonly notNegative: boolean;
  /** Its value is told by the careful reading: always 1 (info), or 1 for one of several (stateset). */
  readonly isState: "info" | "stateset" | undefined;
  /** Times of creation: read, not gathered. */
  readonly created: boolean;
  readonly exemplarAllowed: boolean;
  /** A bucket's upper bound. */
  readonly upTo: number | undefined;
}

/**
 * Reads the comments of a page and says what its samples are. In OpenMetrics it also holds the page to the
 * specification's rules.
 */
export class Families {
  readonly #dialect: Dialect;
  readonly #families = new Map<string, Family>();
  #current: Family | undefined;
  /** The family whose samples may have a name. */
  readonly #owners = new Map<string, string>();
  /** Explanations by counter, as the page gives them. */
  readonly help: Map<string, string>;

  constructor(dialect: Dialect, help: Map<string, string> = new Map()) {
    this.#dialect = dialect;
    this.help = help;
  }

  /** A line that begins with #. Throws TextError. */
  comment(text: string, line: number): void {
    const parts = /^#[ \t]+(TYPE|HELP|UNIT)[ \t]+([a-zA-Z_:][a-zA-Z0-9_:]*)(?:[ \t](.*))?$/s.exec(text);
    const strict = this.#dialect === "openmetrics";
    if (!parts || (strict && !/^# (TYPE|HELP|UNIT) \S/.test(text))) {
      if (strict)
        throw new TextError(`${JSON.stringify(text.slice(0, 60))} is none of # TYPE, # HELP, # UNIT, # EOF`, line, 1);
      return; // a remark
    }
    const [, what, name, rest = ""] = parts as unknown as [string, "TYPE" | "HELP" | "UNIT", string, string?];
    if (what === "UNIT" && !strict) return;
    const family = this.#enter(name, line);
    if (family.begun && strict) throw new TextError(`# ${what} of ${name} stands after its samples`, line, 1);
    if (what === "TYPE") {
      if (family.type !== undefined && strict) throw new TextError(`the type of ${name} is given twice`, line, 1);
      const type = rest.trim();
      if (!(strict ? openMetricsTypes : textTypes).includes(type))
        throw new TextError(
          `${JSON.stringify(type)} is not a type; there are ${(strict ? openMetricsTypes : textTypes).join(", ")}`,
          line,
          name.length + 9,
        );
      family.type = type;
      if (strict) this.#own(family, line);
      if (strict && family.unit) checkUnit(family, line);
    } else if (what === "HELP") {
      if (family.help !== undefined && strict) throw new TextError(`the help of ${name} is given twice`, line, 1);
      family.help = unescaped(rest);
    } else {
      if (family.unit !== undefined) throw new TextError(`the unit of ${name} is given twice`, line, 1);
      if (rest !== "" && !name.endsWith(`_${rest}`))
        throw new TextError(`${name} does not end in its unit, _${rest}`, line, name.length + 9);
      family.unit = rest;
      if (strict && rest !== "") checkUnit(family, line);
    }
  }

  /** The page is over. Throws TextError. */
  end(): void {
    if (this.#dialect === "openmetrics" && this.#current) this.#current.rules.end(this.#current.type ?? "unknown");
  }

  /** Names of samples belong to one family alone (OpenMetrics 1.0, "MetricFamily": names must not clash). */
  #own(family: Family, line: number): void {
    for (const suffix of new Set(["", ...(suffixes[family.type ?? ""] ?? [])])) {
      const name = family.name + suffix;
      const owner = this.#owners.get(name);
      if (owner !== undefined && owner !== family.name)
        throw new TextError(
          `${family.name}, ${family.type ?? "unknown"}, and ${owner} clash: samples of both could be called ${name}`,
          line,
          1,
        );
      this.#owners.set(name, family.name);
    }
  }

  /**
   * What a sample is. Throws TextError where the page breaks a rule. Without `value` the line was read before, and its
   * value kept the rules.
   */
  sample(head: LineHead, line: number, value?: number): SampleSense {
    const family = this.#familyOf(head.name, line);
    if (!family.begun && family.type === undefined && this.#dialect === "openmetrics") this.#own(family, line);
    family.begun = true;
    const type = family.type ?? "unknown";
    const suffix = head.name.slice(family.name.length);
    const label = (name: string) => head.labels.find(([other]) => other === name)?.[1];
    if (this.#dialect === "openmetrics") this.#checkLabels(type, suffix, family.name, label, line);
    if (this.#dialect === "openmetrics")
      family.rules.sample(type, suffix, family.name, head, value ?? (type === "info" ? 1 : 0), line);
    const sense = senseOf(type, suffix, family.name);
    const own = family.help === undefined ? null : described.exec(family.help);
    const tags = Object.fromEntries(
      type === "stateset"
        ? head.labels.map(([name, value]) => [name === family.name ? "state" : name, value])
        : head.labels,
    );
    if (family.help !== undefined && !own) this.help.set(sense.counter, family.help);
    const unit =
      sense.counter.endsWith(".count") || sense.kind === "distribution"
        ? "1"
        : family.unit
          ? unitOfWord(family.unit)
          : unitOfName(sense.counter.replace(/\.sum$/, ""));
    const series: FileSeries =
      own && suffix.replace("_total", "") === "" && counterKinds.includes(own[3] as CounterKind)
        ? { counter: own[1] as string, unit: own[2] as string, kind: own[3] as CounterKind, tags }
        : { counter: sense.counter, unit, kind: sense.kind, tags };
    const bound = suffix === "_bucket" ? label("le") : undefined;
    return {
      series,
      grows: sense.grows,
      notNegative: type === "summary" && suffix === "",
      isState: type === "info" || type === "stateset" ? type : undefined,
      created: suffix === "_created",
      exemplarAllowed: sense.exemplar,
      upTo: bound === undefined ? undefined : boundOf(bound),
    };
  }

  #checkLabels(
    type: string,
    suffix: string,
    name: string,
    label: (name: string) => string | undefined,
    line: number,
  ): void {
    const fail = (message: string) => new TextError(message, line, 1);
    if (suffix === "_bucket") {
      const le = label("le");
      if (le === undefined) throw fail(`a bucket of ${name} has no label le`);
      if (Number.isNaN(boundOf(le))) throw fail(`le="${le}" is not a number`);
    }
    if (type === "summary" && suffix === "") {
      const quantile = Number(label("quantile"));
      if (label("quantile") === undefined || !(quantile >= 0 && quantile <= 1))
        throw fail(`a sample of the summary ${name} has no label quantile from 0 to 1`);
    }
    if (type === "stateset" && label(name) === undefined)
      throw fail(`a sample of the stateset ${name} has no label ${name}`);
  }

  /** The family of a sample: the one whose comments came last where its name fits, else one without comments. */
  #familyOf(name: string, line: number): Family {
    const current = this.#current;
    if (current && name.startsWith(current.name)) {
      const suffix = name.slice(current.name.length);
      if ((suffixes[current.type ?? ""] ?? [""]).includes(suffix) || (this.#dialect === "text" && suffix === ""))
        return current;
      if (suffix === "" && current.type !== undefined)
        throw new TextError(
          `a sample of the ${current.type} ${name} must end in ${(suffixes[current.type] as readonly string[]).filter((one) => one !== "").join(" or ")}`,
          line,
          1,
        );
    }
    return this.#enter(name, line);
  }

  /** The family whose samples are called so, by its type. */
  #ownerOf(name: string): Family | undefined {
    const owner = this.#owners.get(name);
    return owner === undefined || owner === name ? undefined : this.#families.get(owner);
  }

  #enter(name: string, line: number): Family {
    if (this.#current?.name === name) return this.#current;
    const known = this.#families.get(name) ?? (this.#dialect === "openmetrics" ? this.#ownerOf(name) : undefined);
    if (known && this.#dialect === "openmetrics")
      throw new TextError(`${known.name} was read already; what belongs to it must stand together`, line, 1);
    this.end();
    const family = known ?? {
      name,
      type: undefined,
      unit: undefined,
      help: undefined,
      begun: false,
      rules: new MetricRules(),
    };
    this.#families.set(name, family);
    this.#current = family;
    return family;
  }
}

/** Info and StateSet have no unit (OpenMetrics 1.0, "Unit"). */
function checkUnit({ name, type }: Family, line: number): void {
  if (type === "info" || type === "stateset")
    throw new TextError(`${name} is of the type ${type}, which has no unit`, line, 1);
}

function senseOf(
  type: string,
  suffix: string,
  family: string,
): { readonly counter: string; readonly kind: CounterKind; readonly grows: boolean; readonly exemplar: boolean } {
  if (suffix === "_created") return { counter: family, kind: "level", grows: false, exemplar: false };
  if (type === "counter") return { counter: family.replace(/_total$/, ""), kind: "total", grows: true, exemplar: true };
  if (suffix === "_bucket")
    return type === "histogram"
      ? { counter: family, kind: "distribution", grows: true, exemplar: true }
      : { counter: family, kind: "level", grows: false, exemplar: true };
  if (suffix === "_count" || suffix === "_gcount")
    return {
      counter: `${family}.count`,
      kind: type === "gaugehistogram" ? "level" : "total",
      grows: type !== "gaugehistogram",
      exemplar: false,
    };
  if (suffix === "_sum" || suffix === "_gsum")
    return {
      counter: `${family}.sum`,
      kind: type === "gaugehistogram" ? "level" : "total",
      grows: type === "histogram" || type === "summary",
      exemplar: false,
    };
  if (type === "stateset" || type === "info") return { counter: family, kind: "state", grows: false, exemplar: false };
  const total = (type === "unknown" || type === "untyped") && family.endsWith("_total");
  return {
    counter: total ? family.slice(0, -6) : family,
    kind: total ? "total" : "level",
    grows: false,
    exemplar: false,
  };
}

function boundOf(text: string): number {
  return /^\+?inf(inity)?$/i.test(text) ? Number.POSITIVE_INFINITY : text === "" ? Number.NaN : Number(text);
}
