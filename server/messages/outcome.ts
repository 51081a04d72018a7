/** What came of sending, with the other side's answer as it was. */
export interface Outcome {
  readonly worked: boolean;
  readonly answer: string;
  /** The other side refused it for good: it is not tried again. */
  readonly isFinal?: boolean;
  /** It worked, but not everybody whom it was for has it. */
  readonly isPart?: boolean;
}

const mostAnswer = 4000;

export const cut = (text: string): string => (text.length > mostAnswer ? `${text.slice(0, mostAnswer)} …` : text);
