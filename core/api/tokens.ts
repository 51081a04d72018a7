import type { TokenScope } from "../people/token-scope.ts";

export interface TokenView {
  readonly id: number;
  readonly name: string;
  readonly scope: TokenScope;
  readonly sourceId: number | null;
  readonly createdAtMs: number;
  readonly lastUsedAtMs: number | null;
  readonly revokedAtMs: number | null;
}
