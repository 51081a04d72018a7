declare module "@lhncbc/ucum-lhc" {
  export const UcumLhcUtils: { getInstance(): { validateUnitString(unit: string): { readonly status: "valid" | "invalid" | "error" } } };
}
