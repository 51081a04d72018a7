/** A seeded generator of numbers in [0, 1): the seed stands in a test's name, so that a failure can be repeated. Mulberry32 (public domain). */
export declare function seeded(seed: number): () => number;
