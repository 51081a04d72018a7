// What makes or shows a secret asks again who one is. Whoever called waits until that was shown, and goes on.

let ask: (() => Promise<boolean>) | undefined;

/** Has somebody be asked who they are. Answers how to stop it. */
export function provideProof(asking: () => Promise<boolean>): () => void {
  ask = asking;
  return () => {
    ask = undefined;
  };
}

/** Whether the person has shown who they are; false where they would not, or nobody can ask. */
export const proven = async (): Promise<boolean> => (await ask?.()) ?? false;
