import type { ReactNode } from "react";
import { snmpModules } from "../../../../core/formats/snmp/snmp-modules.ts";

/** Which groups of variables are taken of a device of SNMP. */
export function ModulesField({
  modules,
  onChange,
}: {
  modules: readonly string[];
  onChange: (modules: readonly string[]) => void;
}): ReactNode {
  return (
    <fieldset className="flex flex-wrap gap-x-5 gap-y-1">
      <legend className="text-quiet">What it has</legend>
      {snmpModules.map(({ name, words, source }) => (
        <label key={name} className="flex items-center gap-2" title={source}>
          <input
            type="checkbox"
            className="accent-act"
            checked={modules.includes(name)}
            onChange={() =>
              onChange(modules.includes(name) ? modules.filter((one) => one !== name) : [...modules, name])
            }
          />{" "}
          {words}
        </label>
      ))}
    </fieldset>
  );
}
