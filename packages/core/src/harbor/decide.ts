import type { Command } from "../model/command.ts";
import type { Decision, Moment } from "../model/decision.ts";
import { capabilities, capabilityOf } from "./capabilities.ts";

export function decide(moment: Moment, command: Command): Decision {
  const decision = capabilityOf(command.do).decide(moment, command);
  if (command.do !== "harbor.recover" || "refused" in decision) return decision;
  return { ...decision, effects: capabilities.flatMap((one) => one.recover?.(moment.state) ?? []) };
}
