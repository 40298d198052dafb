import type { PlayerId, ProblemCode } from "@yellow-harbor/protocol";
import { accept, assertNever, type Decision, type Moment, nothingToDo } from "../harbor/decision.ts";
import type { TravelCommand, TravellerNamed } from "./commands.ts";
import type { TravelEvent } from "./events.ts";
import { namesOfWaiting } from "./explain.ts";
import type { Travel } from "./state.ts";

export function decideTravel(moment: Moment, command: TravelCommand): Decision {
  if (command.do === "travel.call") return call(moment, command);
  const travel = moment.state.travels.byRun.get(command.run);
  // The travel is over: whatever this is comes too late.
  if (travel === undefined) return nothingToDo;
  switch (command.do) {
    case "travel.board":
      return board(moment, travel, command);
    case "travel.arrive":
      return arrive(travel, command.player);
    case "travel.admit":
      return admit(travel, command.player);
    case "travel.forget":
      return forget(travel, command.player);
    case "travel.lose-instance":
      return loseInstance(moment, travel, command.detail);
    case "travel.expire":
      return expire(moment, travel);
    case "travel.fail":
      return fail(travel, command.code, command.detail);
    default:
      return assertNever(command);
  }
}

type Doing<K extends TravelCommand["do"]> = Extract<TravelCommand, { do: K }>;

function call({ rules, at }: Moment, { room, run, level, pool, travellers }: Doing<"travel.call">): Decision {
  const deadlineMs = at + rules.travel.prepareMs;
  return accept([{ kind: "travel.called", room, run, level, pool, travellers, deadlineMs }]);
}

function board({ rules, at }: Moment, travel: Travel, { instance, address }: Doing<"travel.board">): Decision {
  if (travel.step !== "preparing") return nothingToDo;
  const { room, run } = travel;
  return accept([{ kind: "travel.boarding", room, run, instance, address, deadlineMs: at + rules.travel.boardMs }]);
}

function arrive(travel: Travel, player: PlayerId): Decision {
  const traveller = travel.travellers.get(player);
  if (travel.step !== "boarding" || traveller === undefined || traveller.arrived) return nothingToDo;
  const { room, run } = travel;
  return accept([{ kind: "travel.arrived", room, run, player }, ...completionWhenDecided(travel, player)]);
}

/** Once the others are on the way the barrier does not wait for newcomers: they get a pass and follow. */
function admit(travel: Travel, player: TravellerNamed): Decision {
  if (travel.step !== "preparing" || travel.travellers.has(player.id)) return nothingToDo;
  const { room, run } = travel;
  return accept([{ kind: "travel.joined", room, run, player }]);
}

function forget(travel: Travel, player: PlayerId): Decision {
  if (!travel.travellers.has(player)) return nothingToDo;
  const { room, run } = travel;
  if (travel.travellers.size === 1) return fail(travel, "travel-deadline", "Nobody is left to travel.");
  const forgot: TravelEvent = { kind: "travel.forgot", room, run, player };
  return accept([forgot, ...completionWhenDecided(travel, player)]);
}

/** The barrier: it opens when everybody but `decided`, who arrives or goes with this very decision, has arrived. */
function completionWhenDecided(travel: Travel, decided: PlayerId): TravelEvent[] {
  const waiting = [...travel.travellers.values()].some((other) => other.id !== decided && !other.arrived);
  if (waiting || travel.destination === null) return [];
  return [{ kind: "travel.completed", room: travel.room, run: travel.run, ...travel.destination }];
}

function loseInstance({ rules }: Moment, travel: Travel, detail: string): Decision {
  const { room, run, attempt } = travel;
  if (travel.step !== "preparing")
    return fail(travel, "instance-lost", `The instance was lost while boarding: ${detail}`);
  if (attempt < rules.travel.attempts) {
    return accept([{ kind: "travel.retried", room, run, attempt: attempt + 1, detail }]);
  }
  return fail(travel, "no-instance", `No instance came up in ${attempt} attempts; the last one: ${detail}`);
}

function expire({ rules }: Moment, travel: Travel): Decision {
  if (travel.step === "preparing") {
    const detail = `No instance was ready within ${rules.travel.prepareMs / 1000} s.`;
    return fail(travel, "travel-deadline", detail);
  }
  const detail = `${namesOfWaiting(travel)} did not arrive within ${rules.travel.boardMs / 1000} s.`;
  return fail(travel, "travel-deadline", detail);
}

function fail({ room, run }: Travel, code: ProblemCode, detail: string): Decision {
  return accept([{ kind: "travel.failed", room, run, code, detail }]);
}
