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
    case "harbor.change-rules":
      return accept(rulesChanged(command));
    default:
      return assertNever(command);
  }
}

/** How many of the paths are kept by name. */
const PATHS_MAX = 50;

function rulesChanged({ paths, queues }: Extract<HarborCommand, { do: "harbor.change-rules" }>): OwnEvent[] {
  const { changed, gone } = queues;
  const more = Math.max(0, paths.length - PATHS_MAX);
  return [
    ...(paths.length === 0 ? [] : [{ kind: "harbor.rules-changed" as const, paths: paths.slice(0, PATHS_MAX), more }]),
    ...(changed.length + gone.length === 0 ? [] : [{ kind: "harbor.queue-rules-changed" as const, changed, gone }]),
  ];
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
    case "harbor.rules-changed": {
      const { paths, more } = event;
      return `From here on other rules hold: ${paths.join(", ")}${more > 0 ? `, and ${more} more` : ""}.`;
    }
    case "harbor.queue-rules-changed": {
      const others = event.changed.length === 0 ? [] : [`other rules for queue ${event.changed.join(", ")}`];
      const gone = event.gone.length === 0 ? [] : [`no queue ${event.gone.join(", ")} any more`];
      return `From here on there are ${[...others, ...gone].join(", and ")}.`;
    }
    default:
      return assertNever(event);
  }
}
