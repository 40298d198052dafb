import type { Capability } from "../model/capability.ts";
import type { HarborCommand } from "../model/command.ts";
import { accept, assertNever, type Decision, type DecisionContext, refuse } from "../model/decision.ts";
import type { OwnEvent } from "../model/event.ts";
import type { HarborState } from "../model/state.ts";

/** What concerns the harbor as a whole. */
export const own = {
  names: ["harbor"],
  newState: () => ({ founded: false }),
  decide,
  apply,
  describe: (_state, event) => describe(event),
} satisfies Capability<HarborCommand, OwnEvent>;

function decide({ state, rules }: DecisionContext, command: HarborCommand): Decision {
  switch (command.do) {
    case "harbor.found":
      if (state.founded) return refuse("wrong-phase", "The harbor is founded already.");
      return accept([{ kind: "harbor.founded" }]);
    // Nobody is connected after a restart; whoever was here gets a full grace from now on. One event, however many they are.
    case "harbor.recover":
      return accept(state.players.here > 0 ? [{ kind: "harbor.recovered", graceMs: rules.players.graceMs }] : []);
    case "harbor.change-queue-rules":
      return accept([{ kind: "harbor.queue-rules-changed", changed: command.changed, gone: command.gone }]);
    default:
      return assertNever(command);
  }
}

function apply(state: HarborState, event: OwnEvent): void {
  if (event.kind === "harbor.founded") state.founded = true;
}

function describe(event: OwnEvent): string {
  switch (event.kind) {
    case "harbor.founded":
      return "The harbor is founded.";
    case "harbor.recovered":
      return "The service was restarted; players who were connected have the grace to resume.";
    case "harbor.queue-rules-changed": {
      const others = event.changed.length === 0 ? [] : [`other rules for queue ${event.changed.join(", ")}`];
      const gone = event.gone.length === 0 ? [] : [`no queue ${event.gone.join(", ")} any more`];
      return `From here on there are ${[...others, ...gone].join(", and ")}.`;
    }
    default:
      return assertNever(event);
  }
}
