import fc from "fast-check";

/**
 * Every class of IEEE 754 bit patterns: numbers, whole numbers, decimals, subnormals, both zeros, infinities, NaN with
 * any payload.
 */
export const anyDouble: fc.Arbitrary<number> = fc.oneof(
  fc.double(),
  fc.integer(),
  fc.integer({ min: -100_000, max: 100_000 }).map((n) => n / 100),
  fc.integer({ min: 0, max: 1e6 }).map((n) => n * 4096),
  fc.bigInt({ min: 0n, max: 2n ** 64n - 1n }).map(doubleOf),
  fc.constantFrom(
    0,
    -0,
    Number.NaN,
    Number.POSITIVE_INFINITY,
    Number.NEGATIVE_INFINITY,
    5e-324,
    -5e-324,
    2.2250738585072014e-308,
    2 ** 53,
    -(2 ** 53),
    2 ** 50,
    2 ** 50 + 1,
    Number.MAX_VALUE,
  ),
  fc
    .constantFrom(0x7ff8_0000_dead_beefn, 0xfff0_0000_0000_0001n, 0x7ff0_0000_0000_0001n, 0x7ffc_dead_beef_7373n)
    .map(doubleOf),
);

export function doubleOf(pattern: bigint): number {
  return new Float64Array(new BigUint64Array([pattern]).buffer)[0];
}

/** The bits of numbers, for comparing: −0, 0 and every NaN are different. */
export function bitsOf(values: Float64Array): readonly bigint[] {
  return [...new BigUint64Array(values.slice().buffer)];
}
