/**
 * Moves label centres apart so that neighbours are at least `gap` apart and all stay in `[0, height]`, each as near to
 * its wish as the
 * others allow. The order of the result is that of `wishes`. Where they cannot all fit they are spaced evenly.
 *
 * Pools of touching labels share the mean of their wishes (pool adjacent violators, isotonic regression).
 */
export function spreadLabels(wishes: readonly number[], gap: number, height: number): readonly number[] {
  const order = wishes.map((_, i) => i).sort((a, b) => (wishes[a] as number) - (wishes[b] as number) || a - b);
  const room = height - gap;
  const step = order.length > 1 ? Math.min(gap, room / (order.length - 1)) : gap;
  const pools: { sum: number; n: number }[] = [];
  order.forEach((index, i) => {
    pools.push({ sum: (wishes[index] as number) - i * step, n: 1 });
    for (let last = pools.length - 1; last > 0; last--) {
      const [before, here] = [pools[last - 1] as { sum: number; n: number }, pools[last] as { sum: number; n: number }];
      if (before.sum / before.n <= here.sum / here.n) break;
      pools.splice(last - 1, 2, { sum: before.sum + here.sum, n: before.n + here.n });
    }
  });
  const result = new Array<number>(wishes.length);
  const most = gap / 2 + room - (order.length - 1) * step;
  let i = 0;
  for (const { sum, n } of pools) {
    const base = Math.max(gap / 2, Math.min(sum / n, most));
    for (let k = 0; k < n; k++, i++) result[order[i] as number] = base + i * step;
  }
  return result;
}
