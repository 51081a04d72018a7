/** Hands a text to one of the recipients by its number; what came of it, in words. */
export type HandToRecipient = (
  recipientId: number,
  mail: { readonly subject: string; readonly text: string },
) => Promise<{ readonly worked: boolean; readonly answer: string }>;
