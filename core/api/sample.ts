/** Of a server with the sample world: who may sign in, and how much of its past is written, 0 to 1. */
export interface SampleView {
  readonly name: string;
  readonly password: string;
  readonly progress: number;
}
