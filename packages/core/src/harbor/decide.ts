import { decideBuild } from "../builds/index.ts";
import { decideLobby } from "../lobbies/index.ts";
import { decideMachine } from "../machines/index.ts";
import { decidePlan } from "../planner/index.ts";
import { decidePlayer } from "../players/index.ts";
import { decidePool, recoveryEffects } from "../pools/index.ts";
import { decideQueue } from "../queues/index.ts";
import { decideRoom } from "../rooms/index.ts";
import { decideTravel, probesToRepeat } from "../travel/index.ts";
import { sortCommand } from "./capability.ts";
import type { Command, HarborCommand } from "./command.ts";
import { accept, assertNever, type Decision, type Moment, refuse } from "./decision.ts";
import type { HarborEvent } from "./event.ts";

export function decide(moment: Moment, command: Command): Decision {
  const sorted = sortCommand(command);
  switch (sorted.capability) {
    case "harbor":
      return decideHarbor(moment, sorted.command);
    case "player":
      return decidePlayer(moment, sorted.command);
    case "lobby":
      return decideLobby(moment, sorted.command);
    case "room":
      return decideRoom(moment, sorted.command);
    case "travel":
      return decideTravel(moment, sorted.command);
    case "queue":
      return decideQueue(moment, sorted.command);
    case "machine":
      return decideMachine(moment, sorted.command);
    case "build":
      return decideBuild(moment, sorted.command);
    case "plan":
      return decidePlan(moment, sorted.command);
    case "pool":
      return decidePool(moment, sorted.command);
    default:
      return assertNever(sorted);
  }
}

function decideHarbor(moment: Moment, command: HarborCommand): Decision {
  switch (command.do) {
    case "harbor.found":
      if (moment.state.founded) return refuse("wrong-phase", "The harbor is founded already.");
      return accept([{ kind: "harbor.founded", codeKey: command.codeKey }]);
    case "harbor.recover":
      return recover(moment);
    case "harbor.note-queues":
      return accept([{ kind: "harbor.queues-changed", changed: command.changed, gone: command.gone }]);
    default:
      return assertNever(command);
  }
}

/** Nobody is connected after a restart; whoever was here gets a full grace from now on. One event, however many they are. */
function recover({ state, rules }: Moment): Decision {
  const { graceMs } = rules.players;
  const events: HarborEvent[] = state.players.here > 0 ? [{ kind: "harbor.recovered", graceMs }] : [];
  return accept(events, { effects: [...recoveryEffects(state), ...probesToRepeat(state)] });
}
