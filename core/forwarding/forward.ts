/** What is sent on to another receiver, and where; without its secrets. */
export interface ForwardSettings {
  readonly name: string;
  /** Where OTLP over HTTP is taken, whole, as in https://metrics.example/v1/metrics. */
  readonly url: string;
  /** Names of headers that let it in; their values are secrets. */
  readonly headers: readonly string[];
  /** Issuers (PEM) whose certificates are believed; "" for those of the system. */
  readonly issuer: string;
  /** Names of counters, with * for any run of signs. */
  readonly counters: readonly string[];
  readonly machine: string;
  readonly everySeconds: number;
  readonly isOn: boolean;
}

/** How far it is, and what went wrong last. */
export interface ForwardStanding {
  /** Everything up to this moment was taken there, ms. */
  readonly sentUntilMs: number;
  readonly sent: number;
  /** Values that the receiver refused for good. */
  readonly refused: number;
  readonly failure: { readonly words: string; readonly atMs: number } | null;
}
