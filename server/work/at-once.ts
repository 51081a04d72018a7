/** So many questions are under way at once: one a worker thread, and one that is read meanwhile. */
const questionsAtOnce = 3;

/**
 * Asks for each, a few at a time; the answers stand in the order of what was given. Where one fails, no further ones
 * are begun.
 */
export async function atOnce<Given, Answer>(
  all: readonly Given[],
  ask: (one: Given) => Promise<Answer>,
): Promise<readonly Answer[]> {
  const answers: Answer[] = [];
  let next = 0;
  let hasFailed = false;
  const run = async () => {
    while (next < all.length && !hasFailed) {
      const at = next++;
      try {
        answers[at] = await ask(all[at] as Given);
      } catch (error) {
        hasFailed = true;
        throw error;
      }
    }
  };
  await Promise.all(Array.from({ length: questionsAtOnce }, run));
  return answers;
}
