/**
 * An order that keeps its places: what was shown before stands where it stood until another has clearly passed it, so
 * that what is nearly alike does not change places at every refresh. `sorted` is the plain order, `before` the keys as
 * they stood; `passes` says whether one is clearly ahead of another. Each place is its incumbent's, unless the best of
 * those without a place has clearly passed it. Without a before it is the plain order.
 */
export function steadyFirst<T extends { readonly key: string }>(
  sorted: readonly T[],
  before: readonly string[],
  passes: (one: T, other: T) => boolean,
): readonly T[] {
  const byKey = new Map(sorted.map((one) => [one.key, one]));
  const stood = before.flatMap((key) => byKey.get(key) ?? []);
  const was = new Set(stood.map(({ key }) => key));
  const inPlaces = [...stood, ...sorted.filter(({ key }) => !was.has(key))];
  const placed = new Set<T>();
  const nextOf = (all: readonly T[], from: number) => {
    let at = from;
    while (at < all.length && placed.has(all[at] as T)) at++;
    return at;
  };
  let [incumbent, best] = [0, 0];
  while (placed.size < sorted.length) {
    incumbent = nextOf(inPlaces, incumbent);
    best = nextOf(sorted, best);
    const [one, other] = [sorted[best] as T, inPlaces[incumbent] as T];
    placed.add(passes(one, other) ? one : other);
  }
  return [...placed];
}
