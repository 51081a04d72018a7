import { type Nothing, route } from "./route.ts";

/** A month's figures; null where nothing is known. */
export interface MonthFigures {
  readonly incidents: number;
  readonly urgent: number;
  /** How long something was raised, all together, ms. */
  readonly raisedMs: number;
  readonly wattHours: number | null;
  /** For what share of its time energy is known, 0 to 1. */
  readonly known: number;
  readonly cost: number | null;
  readonly currency: string | null;
  /** The mean of all machines' steadiness over its days. */
  readonly steadiness: number | null;
  /** How long machines were silent, all together, ms. */
  readonly silentMs: number;
}

/** A month on one page, with the month before beside it. */
export interface MonthView {
  /** "2026-11". */
  readonly month: string;
  readonly zone: string;
  readonly fromMs: number;
  /** Its end, or now while it goes on. */
  readonly toMs: number;
  readonly isOver: boolean;
  readonly figures: MonthFigures;
  readonly before: MonthFigures;
  /** What is worth a word, most important first. */
  readonly words: readonly string[];
  /** The longest, at most ten. */
  readonly incidents: readonly {
    readonly id: number;
    readonly machine: string;
    readonly rule: string;
    readonly severity: string;
    readonly raisedAtMs: number;
    readonly lengthMs: number;
  }[];
  readonly steadiness: readonly {
    readonly machine: string;
    readonly mean: number;
    readonly lowest: number;
    readonly lowestDay: string | null;
  }[];
  readonly energy: readonly {
    readonly of: string;
    readonly wattHours: number;
    readonly cost: number | null;
    readonly estimated: boolean;
  }[];
  readonly fills: readonly {
    readonly what: string;
    readonly machine: string;
    readonly share: number;
    readonly fullFromMs: number | null;
    readonly fullToMs: number | null;
  }[];
  readonly grew: readonly {
    readonly what: string;
    readonly machine: string;
    readonly by: number;
    readonly unit: string;
    readonly share: number;
  }[];
  readonly silent: readonly { readonly machine: string; readonly silentMs: number; readonly times: number }[];
}

/** When the month is sent, and to whom. */
export interface MonthSending {
  /** Recipients by number; none: it is not sent. */
  readonly recipients: readonly number[];
  /** Of the month after, 1 to 28. */
  readonly day: number;
  /** Clock time, "07:00". */
  readonly at: string;
  /** IANA. */
  readonly zone: string;
}

/** What came of sending it, by recipient. */
export interface MonthSent {
  readonly recipient: string;
  readonly worked: boolean;
  readonly answer: string;
}

export interface MonthSendingView extends MonthSending {
  readonly lastSent: { readonly month: string; readonly atMs: number; readonly outcomes: readonly MonthSent[] } | null;
}

/** `month` is "2026-11"; the present one where absent. */
export const getMonth = route("GET", "/planning/month")<
  Nothing,
  MonthView,
  { readonly month?: string; readonly zone?: string }
>();
export const getMonthSending = route("GET", "/planning/month/sending")<Nothing, MonthSendingView>();
export const putMonthSending = route("PUT", "/planning/month/sending")<MonthSending, MonthSendingView>();
/** Sends the month at once, to those who are named there. */
export const sendMonth = route("POST", "/planning/month/send")<{ readonly month?: string }, readonly MonthSent[]>();
