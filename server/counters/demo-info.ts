/** What a server with the sample world tells everybody. */
export interface DemoInfo {
  readonly owner: { readonly name: string; readonly password: string };
  /** 0 to 1. */
  progress(): number;
}
