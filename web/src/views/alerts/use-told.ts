import { useQuery } from "@tanstack/react-query";
import { listRecipients } from "../../../../core/api/messages.ts";
import { toldOfRule, toldWords } from "../../../../core/messages/told-of-rule.ts";
import type { RuleDocument } from "../../../../core/rules/rule.ts";
import { recipientsQuery } from "../../api/queries.ts";
import { useMay } from "../../shared/people/use-may.ts";

/** Who is told of a rule, in words; undefined until it is known, and for who may not know. */
export function useTold(): (rule: Pick<RuleDocument, "notice" | "urgent" | "reading">) => string | undefined {
  const may = useMay()(listRecipients);
  const recipients = useQuery({ ...recipientsQuery, enabled: may }).data;
  return (rule) => recipients && toldWords(toldOfRule(recipients, rule));
}
