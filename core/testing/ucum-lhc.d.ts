declare module "@lhncbc/ucum-lhc" {
  export const UcumLhcUtils: {
    getInstance(): {
      convertUnitTo(
        from: string,
        value: number,
        to: string,
      ): { readonly status: "succeeded" | "failed" | "error"; readonly toVal: number | null };
      validateUnitString(unit: string): { readonly status: "valid" | "invalid" | "error" };
    };
  };
}
