import type { Command } from "./command.ts";
import type { Decision, DecisionContext } from "./decision.ts";
import type { ReplyTo } from "./replies.ts";

/** All commands of a capability, each with what decides it and the reply that whoever gives it waits for. */
export type Handlers<C extends Command, Part> = {
  readonly [K in C["do"]]: (context: DecisionContext<Part>, command: Extract<C, { do: K }>) => Decision<ReplyTo<K>>;
};

/** Decides by the table. */
export const decideBy =
  <C extends Command, Part>(handlers: Handlers<C, Part>) =>
  (context: DecisionContext<Part>, command: C): Decision => {
    // The table has under each name what decides the commands of that name, which the compiler cannot follow through it.
    const handler = handlers[command.do as C["do"]] as (context: DecisionContext<Part>, command: C) => Decision;
    return handler(context, command);
  };
