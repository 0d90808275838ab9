import type { DecisionData, Result } from "../../api/client";

/** What the card of the next two minutes asks for. */
export type Step = "record" | "open" | "see_to" | "leave" | "refer" | "check" | "nothing";

/** The one thing to do now, as the sum has it; while the sum is not there, as the advice has it. */
export function stepNow(
  { advice, next_checks: checks }: Pick<Result, "advice" | "next_checks">,
  decision: DecisionData | undefined,
  isHeard: boolean,
): Step {
  if (advice === "record_again") return "record";
  if (advice === "commit") return "open";
  const cheapest = decision?.choices[0]?.action;
  if (advice === "no_teardown") return cheapest === "see_to" ? "see_to" : "leave";
  if (cheapest === "refer") return "refer";
  if (checks.length > 0) return "check";
  return isHeard ? "nothing" : "record";
}
