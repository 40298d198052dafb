import type { Command } from "../model/command.ts";
import type { Decision, DecisionContext } from "../model/decision.ts";
import { capabilities, capabilityOf } from "./capabilities.ts";

export function decide(context: DecisionContext, command: Command): Decision {
  const decision = capabilityOf(command.do).decide(context, command);
  if (command.do !== "harbor.recover" || "refused" in decision) return decision;
  return { ...decision, effects: capabilities.flatMap((one) => one.recover?.(context.state) ?? []) };
}
