/**
 * Processor seconds that one time of something takes here: the mean of some times, after one that does not count. What
 * the server does beside it meanwhile is in there.
 */
export async function secondsEach(act: () => Promise<unknown>, times: number): Promise<number> {
  await act();
  const before = process.cpuUsage();
  for (let i = 0; i < times; i++) await act();
  const { user, system } = process.cpuUsage(before);
  return (user + system) / 1e6 / times;
}
