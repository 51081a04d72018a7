import type { CounterKind, Reduction, Tags, UsualLimit } from "../counters/counter.ts";
import type { Dashboard } from "../dashboards/dashboard.ts";
import type { CounterCategory, CounterChoice } from "../formats/windows/counter-choice.ts";
import type { TableShape } from "../formats/csv/table-shape.ts";
import type { Recipient } from "../messages/recipient.ts";
import type { QuietTime } from "../quiet/quiet-time.ts";
import type { IncidentView, Mode, Rule, RuleDocument, Severity } from "../rules/rule.ts";
import type { Pause, Source, SourceState } from "../sources/source.ts";

/** Answer of GET /api/health. */
export interface Health {
  readonly status: "ok" | "degraded";
  readonly version: string;
  /** "full": it answers, but its disk takes nothing more. */
  readonly database: "ok" | "away" | "full";
  /** Since when it is not "ok", ms. */
  readonly databaseSince: number | null;
  /** How often it was tried to start its PostgreSQL, in vain. */
  readonly databaseTries: number;
  /** Rows of the store that could not be read and were set aside; null while the database is away. */
  readonly setAside: number | null;
  /** False where its clock is more than an hour beyond what it knows to have been: then nothing is deleted by it. */
  readonly clockBelieved: boolean;
  /** ms, null before the first sample. */
  readonly lastSampleAt: number | null;
  readonly samplesPerSecond: number;
  /** Samples that wait for the database in memory, and how many may; they are not acknowledged. */
  readonly waitingSamples: number;
  readonly mostWaiting: number;
  /** Whether they stand on disk as well, and so outlive the server. */
  readonly waitingOnDisk: boolean;
  /** Samples that were not taken since the start, by reason. */
  readonly refused: Readonly<Record<string, number>>;
  /** How late rules were checked at the most within the last minute, how many lines they watch, and how many rules and recipients fail. */
  readonly alerting: { readonly lagMs: number; readonly lines: number; readonly failingRules: number; readonly failingRecipients: number };
}

/** A line of the server's log; lines that say the same are one. */
export interface LogEntryView {
  readonly level: "warning" | "error";
  readonly words: string;
  /** The failure behind it; empty where there is none. */
  readonly why: string;
  readonly firstMs: number;
  readonly lastMs: number;
  readonly times: number;
}

/** A row of the store that could not be read and was set aside. */
export interface SetAsideView {
  readonly origin: "journal" | "chunk" | "chunk_times" | "rollup_5m" | "rollup_1h";
  /** Where it stood: segment and number, or series and slot (of two hours) or period. */
  readonly place: Readonly<Record<string, number>>;
  readonly reason: string;
  readonly bytes: number;
  readonly atMs: number;
  /** Of which counter and machine it told; null where that is not known. */
  readonly counter: string | null;
  readonly machine: string | null;
}

/** How the server itself is. */
export interface ConditionView {
  /** Null while the database is away. */
  readonly setAside: { readonly count: number; readonly rows: readonly SetAsideView[] } | null;
  /** What the start command last had to do to keep PostgreSQL running, and what that said where it does not come up; null where nothing. */
  readonly database: { readonly tries: number; readonly said: string | null } | null;
  /** How often the clock was set (or the machine slept), the newest first, by so many ms; and by which time is acted where the clock is not believed. */
  readonly clock: { readonly jumps: readonly { readonly atMs: number; readonly byMs: number }[]; readonly actingMs: number | null };
  /** What the log has said since the start, the newest first. */
  readonly log: readonly LogEntryView[];
}

/** What one tier of the store takes. */
export interface TierCosts {
  readonly tier: "raw" | "5m" | "1h";
  readonly keptDays: number;
  readonly sizeBytes: number;
  /** Start of the oldest that is there, ms; null while there is nothing. */
  readonly fromMs: number | null;
  /** What a day takes at the present rate; null while that is not known. */
  readonly bytesPerDay: number | null;
}

/** What gathering and keeping costs. */
export interface CostsView {
  readonly samplesPerSecond: number;
  readonly series: number;
  /** On disk, indexes included; null before the first two hours are stored. */
  readonly bytesPerSample: number | null;
  readonly tiers: readonly TierCosts[];
  readonly journalBytes: number;
  readonly databaseBytes: number;
  /** Free on the database's disk; null where that is another machine's. */
  readonly diskFreeBytes: number | null;
  readonly memoryBytes: number;
  readonly headBytes: number;
  readonly headSamples: number;
  /** Of one processor, over the last minute. */
  readonly processorShare: number;
  readonly refused: Readonly<Record<string, number>>;
}

/** Of a server with the sample world: who may sign in, and how much of its past is written, 0 to 1. */
export interface SampleView {
  readonly name: string;
  readonly password: string;
  readonly progress: number;
}

export interface Me {
  readonly name: string;
  readonly role: "owner";
}

/** How a machine stands: as the best of its sources, or nothing gathers it any more. */
type MachineState = SourceState | "not gathered";

export interface MachineView {
  readonly name: string;
  readonly state: MachineState;
  readonly lastSampleAtMs: number | null;
  /** Seconds between gatherings. */
  readonly intervalSeconds: number;
  readonly series: number;
  /** What people call it; empty where they have said nothing. */
  readonly friendlyName: string;
  /** Tags of the machine itself. */
  readonly tags: Tags;
  /** Its place among all machines by age: the one colour that it has everywhere. */
  readonly colour: number;
  /** What has been running on it in the last hours. */
  readonly guests: readonly string[];
  readonly containers: readonly string[];
  /** What it is gathered by. `unchecked`: the certificate is believed from anybody. */
  readonly sources: readonly { readonly id: number; readonly name: string; readonly kind: Source["kind"]; readonly state: SourceState; readonly unchecked: boolean; readonly failure: string | null; readonly pause: Pause | null }[];
}

export interface MachineDetail extends MachineView {
  /** Names of the counters that report about it. */
  readonly counters: readonly string[];
}

/** The list of counters tells so many values of a tag at most; the rest is told of one counter alone. */
export const mostListedValues = 30;

export interface CounterView {
  readonly name: string;
  readonly words: string;
  readonly explains: string;
  readonly unit: string;
  readonly kind: CounterKind;
  readonly series: number;
  /** What is shown of it unless asked otherwise. */
  readonly reduction: Reduction;
  readonly limit: UsualLimit | null;
  readonly machines: readonly string[];
  /** Its tags in order of their names, `machine` first, those of machines among them; some of very many values. */
  readonly tags: readonly { readonly tag: string; readonly values: readonly string[] }[];
}

/** Everything about one counter: all values of its tags, and how it stands now. */
export interface CounterDetail extends CounterView {
  readonly samplesPerDay: number;
  /** Its series with their newest value of the last quarter of an hour; of very many the first. */
  readonly newest: readonly { readonly id: number; readonly tags: Tags; readonly atMs: number | null; readonly value: number | null }[];
}

/** Samples as they are stored, newest first. */
export interface RawSamples {
  readonly timeMs: readonly number[];
  readonly value: readonly number[];
  /** Whether there are more in the window than these. */
  readonly isCut: boolean;
}

/** Values of tags that occur together among what reports. */
export interface TagsPresent {
  readonly combinations: readonly Tags[];
  /** Of how many counters each of them is. */
  readonly counters: readonly number[];
  /** Whether there are more than these. */
  readonly isCut: boolean;
}

/** A dashboard as the list shows it. */
export interface DashboardListed {
  readonly id: number;
  readonly title: string;
  readonly description: string;
  readonly tags: readonly string[];
  readonly tiles: number;
  readonly revision: number;
  readonly changedAtMs: number;
  readonly changedBy: string;
  /** By the one who asks. */
  readonly starred: boolean;
}

export interface DashboardView {
  readonly id: number;
  readonly document: Dashboard;
  /** Grows by one with each save; what is saved must name the one it was made from. */
  readonly revision: number;
  readonly changedAtMs: number;
  readonly changedBy: string;
}

export type DashboardRevision = Omit<DashboardView, "id">;

export interface SeriesView {
  readonly id: number;
  readonly tags: Tags;
}

/** A rule with where it stands; `mode` is null while it is off or not yet checked. */
export interface RuleView extends Rule {
  readonly changedBy: string;
  readonly changedAtMs: number;
  /** Of which ready-made rule it was made; null where of none. */
  readonly readyMade: string | null;
  /** Of its worst line. */
  readonly mode: Mode | null;
  /** Of that mode: which of its limits it is. */
  readonly severity: Severity;
  readonly sinceMs: number | null;
  readonly value: number | null;
  /** Of its values. */
  readonly unit: string;
  readonly lines: number;
  readonly raised: number;
  readonly failure: string | null;
}

export type IncidentEntryKind = "raised" | "worsened" | "eased" | "cleared" | "acknowledged" | "unacknowledged" | "snoozed" | "note" | "closed" | "told";

/** What happened to an incident, by whom; by nobody: by the server. */
export interface IncidentEntry {
  readonly id: number;
  readonly atMs: number;
  readonly kind: IncidentEntryKind;
  readonly by: string;
  readonly text: string;
}

/** Everything about one incident. */
export interface IncidentDetail {
  readonly incident: IncidentView;
  /** Its rule as it was when it was raised; null where it is of none. */
  readonly document: RuleDocument | null;
  readonly entries: readonly IncidentEntry[];
  readonly messages: readonly MessageView[];
  /** Others of its machine, or raised within a minute of it. */
  readonly beside: readonly IncidentView[];
  readonly events: readonly MachineEvent[];
  /** The window in which it is looked at. */
  readonly window: { readonly from: number; readonly to: number };
}

interface MessageAttempt {
  readonly atMs: number;
  readonly worked: boolean;
  /** Of the other side, as it was. */
  readonly answer: string;
}

/** A message that was sent, or is to be. */
export interface MessageView {
  readonly id: string;
  readonly recipientId: number;
  readonly recipient: string;
  readonly kind: string;
  readonly incidents: readonly { readonly id: number; readonly ruleName: string }[];
  readonly createdAtMs: number;
  readonly state: "waiting" | "sent" | "given up" | "replaced";
  readonly attempts: readonly MessageAttempt[];
}

export interface RecipientView extends Recipient {
  /** Whether a password or secret is kept. */
  readonly hasSecret: boolean;
  readonly failingSinceMs: number | null;
  readonly failure: string | null;
}

/** A quiet time with when it holds next, or holds now. */
export interface QuietView extends QuietTime {
  readonly now: { readonly fromMs: number; readonly toMs: number } | null;
  readonly next: { readonly fromMs: number; readonly toMs: number } | null;
  /** Open incidents that it hides. */
  readonly hides: number;
}

/** How alerting itself does. */
export interface AlertingView {
  /** The quiet time that hides everything now. */
  readonly allQuiet: { readonly id: number; readonly title: string; readonly by: string; readonly why: string; readonly untilMs: number } | null;
  readonly failingRecipients: readonly { readonly id: number; readonly name: string; readonly sinceMs: number; readonly failure: string }[];
  readonly failingRules: number;
  /** How late the last minute's checks were at the most, ms. */
  readonly lagMs: number;
  readonly checkedLines: number;
  readonly heartbeat: { readonly url: string; readonly lastAtMs: number | null; readonly failure: string | null } | null;
  /** By which links in messages begin. */
  readonly address: string;
}

/** How much was gathered in each of `counts.length` equal parts of a window. */
export interface DensityView {
  readonly from: number;
  readonly stepMs: number;
  readonly counts: readonly number[];
}

/** What can go wrong while a source is asked or sends. */
export type DiagnosisKind =
  | "nothing listens" | "name unknown" | "no way there" | "no answer" | "reset" | "truncated" | "too slow" | "too large" | "bomb"
  | "wrong credentials" | "not allowed" | "wrong path" | "redirect" | "refused" | "not the format"
  | "credentials wanted" | "self-signed" | "missing intermediate" | "weak signature" | "weak key" | "wrong purpose" | "client certificate wanted" | "old protocol" | "no common ground"
  | "unknown issuer" | "wrong name" | "expired" | "not yet valid" | "other fingerprint" | "not TLS" | "TLS wanted" | "unknown user" | "wrong level" | "endless" | "tool missing" | "failed";

export interface CertificateView {
  /** Of the DER, pairs of hexadecimal digits with colons. */
  readonly sha256: string;
  readonly subject: string;
  readonly issuer: string;
  /** Names and addresses that it covers. */
  readonly names: readonly string[];
  readonly fromMs: number;
  readonly untilMs: number;
}

export interface SourceFailure {
  readonly kind: DiagnosisKind;
  readonly words: string;
  /** What to do. */
  readonly remedy: string;
  readonly atMs: number;
  readonly certificate: CertificateView | null;
}

/** Something that happened to a machine, or a part of it; times in ms, `toMs` is `fromMs` for a moment. */
export interface MachineEvent {
  readonly id: number;
  readonly fromMs: number;
  readonly toMs: number;
  readonly kind: string;
  readonly machine: string;
  readonly text: string;
  readonly tags: Tags;
}

/** What a walk through a device of SNMP found: what is understood, by module and row, and numbers that nobody has described. */
export interface WalkView {
  readonly device: string;
  readonly name: string;
  readonly tookMs: number;
  readonly variables: number;
  readonly groups: readonly { readonly module: string; readonly words: string; readonly readings: readonly { readonly counter: string; readonly words: string; readonly tags: Tags; readonly unit: string; readonly kind: CounterKind; readonly value: number }[] }[];
  readonly unknown: readonly WalkedNumber[];
  /** Why the walk ended early, what was not looked at, and after which number it can go on; null where it did not. */
  readonly cut: { readonly words: string; readonly after: string } | null;
}

export interface WalkedNumber {
  readonly oid: string;
  readonly type: string;
  readonly text: string;
  /** Null where it is no number. */
  readonly value: number | null;
  readonly kind: "total" | "level";
}

/** A source and how it stands; times in ms, null where there is none yet. */
export interface SourceView extends Source {
  readonly state: SourceState;
  readonly heardMs: number | null;
  readonly tookMs: number | null;
  /** When the certificate that it shows ends; null where it shows none. */
  readonly certificateUntilMs: number | null;
  readonly nextMs: number | null;
  /** Of the last page: found = taken + left out. */
  readonly found: number | null;
  readonly taken: number | null;
  readonly leftOut: Readonly<Record<string, number>>;
  readonly failure: SourceFailure | null;
  /** Failed answers and refused requests since the start. */
  readonly failures: number;
  readonly hasRaw: boolean;
  /** How far its clock is behind the server's, ms (negative: ahead); null where it sends no times, or too few yet. */
  readonly clockBehindMs: number | null;
  /** How late its samples come by measuring, ms. */
  readonly measuredLateMs: number;
}

/** How a source stood from then until then, ms. */
export interface SpellView {
  readonly fromMs: number;
  readonly untilMs: number;
  readonly outcome: "ok" | DiagnosisKind;
  readonly words: string;
}

/** One series as it came and what the rules make of it. */
export interface TriedSeries {
  readonly sent: { readonly counter: string; readonly tags: Tags; readonly unit: string; readonly kind: CounterKind };
  /** Null where it is not gathered. */
  readonly made: { readonly counter: string; readonly tags: Tags; readonly unit: string; readonly kind: CounterKind } | null;
  readonly why: string | null;
  readonly value: number | null;
  /** What the format itself says about it. */
  readonly help: string;
}

/** What a page would give. found = taken + the sum of left out. */
export interface TriedPage {
  readonly kind: "page";
  readonly tookMs: number;
  readonly format: "openmetrics" | "text" | "otlp" | "csv" | "device";
  readonly bytes: number;
  readonly found: number;
  readonly taken: number;
  readonly leftOut: Readonly<Record<string, number>>;
  /** At most as many as are worth showing. */
  readonly series: readonly TriedSeries[];
}

export type TryAnswer = TriedPage | ({ readonly kind: "failed" } & { readonly failure: SourceFailure });

export type WalkAnswer = { readonly kind: "walked"; readonly walk: WalkView } | { readonly kind: "failed"; readonly failure: SourceFailure };

/** Bounds of what is taken in. */
export interface IntakeLimits {
  readonly bodyBytes: number;
  readonly lineBytes: number;
  readonly tags: number;
  readonly seriesPerSource: number;
  readonly newSeriesPerMinute: number;
}

/** write: for one source. read: what is gathered. manage: everything but people. calendar: the feed of quiet times, whose address it stands in. */
export type TokenScope = "write" | "read" | "manage" | "calendar";

export interface TokenView {
  readonly id: number;
  readonly name: string;
  readonly scope: TokenScope;
  readonly sourceId: number | null;
  readonly createdAtMs: number;
  readonly lastUsedAtMs: number | null;
  readonly revokedAtMs: number | null;
}

/** Answer to a push. found = taken + the sum of left out. */
export interface PushAnswer {
  readonly found: number;
  readonly taken: number;
  readonly leftOut: Readonly<Record<string, number>>;
  readonly notes: readonly string[];
}

/** How the server speaks. Times in ms; null where it speaks in clear text. */
export interface TransportView {
  readonly kind: "plain" | "files" | "house";
  readonly names: readonly string[];
  readonly sha256: string | null;
  /** Of the public key, as curl wants it. */
  readonly pin: string | null;
  readonly fromMs: number | null;
  readonly untilMs: number | null;
  readonly endsSoon: boolean;
  /** The house authority's certificate. */
  readonly authorityPem: string | null;
  /** When the house authority ends; soon: within 90 days, and then those who believe it must be given a new one. */
  readonly authorityEnds: { readonly untilMs: number; readonly isSoon: boolean } | null;
  /** Whose forwarded headers are believed. */
  readonly proxies: readonly string[];
  /** Whether this machine alone can reach the server. */
  readonly isLoopbackOnly: boolean;
  /** Where other machines reach the server, or will once it listens for them: beginnings of addresses, the likeliest first. */
  readonly reachedAt: readonly string[];
}

/** What a Windows machine said that it can count, what a person chose of it (null: the usual), and what the usual is there. */
export interface WindowsCountersView {
  readonly told: readonly CounterCategory[];
  readonly toldAtMs: number;
  readonly chosen: CounterChoice | null;
  readonly usual: CounterChoice;
}

/** How a table was found to be read; without doubts it is taken so, with some a person confirms it. */
export interface FoundTable {
  readonly shape: TableShape;
  readonly doubts: readonly string[];
  readonly tried: TriedPage;
}
