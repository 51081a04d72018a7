export const weekdays = ["mon", "tue", "wed", "thu", "fri", "sat", "sun"] as const;
type Weekday = (typeof weekdays)[number];

/** Hours of the day at which energy costs something else. */
export interface TariffHours {
  /** On all days where none is named. A time over midnight belongs to the day on which it begins. */
  readonly days?: readonly Weekday[];
  /** Clock times, "22:00"; up to "24:00". */
  readonly from: string;
  readonly to: string;
  /** A kWh. */
  readonly price: number;
}

/** A part of the year, by date, in which energy costs something else. */
interface TariffSeason {
  /** First and last day of each year, "10-01" to "03-31"; over the turn of the year where the first is the later one. */
  readonly from: string;
  readonly to: string;
  /** A kWh; the tariff's own where absent. */
  readonly price?: number;
  /** The tariff's own where absent. */
  readonly hours?: readonly TariffHours[];
}

/** What is paid whether energy is used or not. */
export interface StandingCharge {
  readonly amount: number;
  readonly per: "day" | "month" | "year";
}

/** From so many kWh of a calendar month on, each costs so much more (less where below 0) than the price says. */
export interface VolumeStep {
  readonly aboveKwh: number;
  readonly add: number;
}

/** What energy costs, from a day on until another tariff of the same meter begins. */
export interface Tariff {
  readonly name: string;
  /** ISO 4217. */
  readonly currency: string;
  /** IANA. */
  readonly zone: string;
  /** The first day, by the zone. */
  readonly from: string;
  /** A kWh. */
  readonly price: number;
  readonly seasons?: readonly TariffSeason[];
  readonly hours?: readonly TariffHours[];
  readonly standing?: StandingCharge;
  readonly steps?: readonly VolumeStep[];
  /** The machines behind this meter; all that no other tariff names where absent. */
  readonly sources?: readonly string[];
  /** Carbon dioxide a kWh, g. */
  readonly gramsPerKwh?: number;
  /** What a calendar month may cost. */
  readonly budgetPerMonth?: number;
}
