import type { ReactNode } from "react";
import { EntryField } from "./entry-field.tsx";

interface NewPasswordFieldProps extends React.ComponentProps<"input"> {
  readonly label: string;
  readonly problem: string | undefined;
}

/** Where a password is chosen, with what makes a good one. */
export const NewPasswordField = (props: NewPasswordFieldProps): ReactNode => (
  <EntryField
    hint="12 characters or more; four unrelated words do well"
    {...props}
    type="password"
    autoComplete="new-password"
  />
);
