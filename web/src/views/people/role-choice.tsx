import type { ReactNode } from "react";
import { type Role, roles, roleWords } from "../../../../core/people/roles.ts";

interface RoleChoiceProps {
  readonly name: string;
  readonly value: Role;
  readonly change: (role: Role) => void;
}

/** The three roles, each with what it may. */
export function RoleChoice({ name, value, change }: RoleChoiceProps): ReactNode {
  return (
    <fieldset className="mt-2">
      <legend className="sr-only">Role</legend>
      {[...roles].reverse().map((role) => (
        <label key={role} className="flex items-baseline gap-2">
          <input
            type="radio"
            name={name}
            className="accent-act"
            checked={value === role}
            onChange={() => change(role)}
          />
          <span>
            <span className="font-bold">{role}</span> <span className="text-quiet">{roleWords[role].does}</span>
          </span>
        </label>
      ))}
    </fieldset>
  );
}
