import { RuleEditor } from "./rule-editor.tsx";
import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { useParams, useSearchParams } from "react-router";
import { watchedValue } from "../../../../core/rules/rule.ts";
import { ruleValuesQuery } from "../../api/queries.ts";
import { SectionLink } from "../../time/section-link.tsx";
import { newRuleFrom } from "../../shared/rules/rule-address.ts";
import { documentOf } from "../../../../core/rules/document-of.ts";

const defaultReading = {
  sentences: { a: { counter: "system.cpu.load_average", where: [{ tag: "over", is: ["5m"] }] } },
};

/** A rule that is there. */
export function RuleView(): ReactNode {
  const id = Number(useParams()["id"]);
  const rules = useQuery(ruleValuesQuery);
  const rule = rules.data?.find((one) => one.id === id);
  if (rules.error)
    return (
      <p role="alert" className="py-6 text-urgent">
        {rules.error.message}
      </p>
    );
  if (!rules.data) return <p className="py-6 text-quiet">reading …</p>;
  if (!rule)
    return (
      <p className="py-6">
        There is no such rule; it may have been removed.{" "}
        <SectionLink to="/alerts" className="word-link">
          All rules
        </SectionLink>
      </p>
    );
  return <RuleEditor key={id} begin={documentOf(rule)} saved={rule} />;
}

/** A rule to be made, about what the address says. */
export function NewRuleView(): ReactNode {
  const [search] = useSearchParams();
  const { reading, place, name } = newRuleFrom(search);
  return (
    <RuleEditor
      begin={{
        name,
        reading: reading ?? defaultReading,
        watch: watchedValue,
        compare: "above",
        notice: { high: 0 },
        urgent: null,
        everySeconds: 0,
        mustLastSeconds: 0,
        staysRaisedSeconds: 0,
        noData: "hold",
        marginSeconds: null,
        place,
        advice: "",
      }}
      saved={undefined}
    />
  );
}
