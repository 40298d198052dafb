import type { PlayerId, RunId } from "@yellow-harbor/protocol";
import { accept, type Decision, nothingToDo, type RoomsContext } from "../model/decision.ts";
import { decideBy } from "../model/handlers.ts";
import type { RoomsPart } from "../model/state.ts";
import type { TravelCommand, TravellerNamed } from "../model/travel/commands.ts";
import type { TravelEvent } from "../model/travel/events.ts";
import { kindOf, type Travel } from "../model/travel/state.ts";
import { minOf, opensAtDeadline, tally } from "./barrier.ts";
import { arrive, completion, completionIf, fail, follow, forfeit } from "./course.ts";
import { asksOfTravel, operatorAbort } from "./decide-asks.ts";
import { namesOf } from "./explain.ts";
import { addWorldBerth, addWorldSpectator, askForWorld, closeWorld, forgetInWorld, worldProbed } from "./worlds.ts";

type Doing<K extends TravelCommand["do"]> = Extract<TravelCommand, { do: K }>;

/** Decides about a travel that is under way: whatever else this is comes too late. */
const underWay =
  <K extends TravelCommand["do"]>(
    decide: (context: RoomsContext, travel: Travel, command: Doing<K>) => Decision,
    after: (context: RoomsContext, command: Doing<K>) => Decision = () => nothingToDo,
  ) =>
  (context: RoomsContext, command: Doing<K> & { readonly run: RunId }): Decision => {
    const travel = context.state.travels.byRun.get(command.run);
    return travel === undefined ? after(context, command) : decide(context, travel, command);
  };

export const decideTravel = decideBy<TravelCommand, RoomsPart>({
  ...asksOfTravel,
  "travel.call": call,
  "travel.operator-abort": operatorAbort,
  "travel.close-world": (context, { room }) => closeWorld(context, room),
  "travel.add-berth": addWorldBerth,
  "travel.add-spectator": addWorldSpectator,
  "travel.mark-ashore": (context, { run, player }) => markAshore(context, run, player),
  "travel.prepare": underWay(prepare),
  "travel.instance-ready": underWay<"travel.instance-ready">(instanceReady),
  "travel.world-probed": underWay<"travel.world-probed">(worldProbed),
  // Somebody may come after the others.
  "travel.mark-arrived": underWay<"travel.mark-arrived">(
    (context, travel, { run, player }) =>
      travel.travellers.has(player) ? arrive(context, travel, player) : follow(context, run, player),
    (context, { run, player }) => follow(context, run, player),
  ),
  "travel.admit": underWay<"travel.admit">((_moment, travel, { player }) => admit(travel, player)),
  "travel.forget": underWay<"travel.forget">(forget, forgetInWorld),
  "travel.consider": underWay((context, travel) => accept(completionIf(travel, roomOf(context, travel)))),
  "travel.lose-instance": underWay<"travel.lose-instance">(loseInstance),
  "travel.forfeit": underWay<"travel.forfeit">((context, travel, { code, detail }) =>
    forfeit(context, travel, code, detail),
  ),
  "travel.expire": underWay(expire),
});

const roomOf = ({ state }: RoomsContext, { room }: Travel) => state.rooms.byId.get(room);

function call({ state, rules, at }: RoomsContext, command: Doing<"travel.call">): Decision {
  const { room, run, level, pool, options, stragglers, travellers } = command;
  const held = state.seen.pools.heldBy(room);
  const from = held?.state === "open" ? { instance: held.id, address: held.address } : null;
  const deadlineMs = at + rules.travel.prepareMs;
  return accept([{ kind: "travel.called", room, run, level, pool, options, stragglers, from, travellers, deadlineMs }]);
}

/** What needs no instance is ready at once, or a member is asked. */
function prepare(context: RoomsContext, travel: Travel): Decision {
  if (travel.step !== "preparing") return nothingToDo;
  switch (kindOf(travel)) {
    case "dedicated":
      return nothingToDo;
    case "player-hosted":
      return askForWorld(context, travel);
    case "relayed": {
      const { room, run } = travel;
      const deadlineMs = context.at + context.rules.travel.boardMs;
      const detail = "the service relays between the members; there is nothing to wait for";
      return accept([{ kind: "travel.boarding", room, run, destination: { by: "relayed" }, detail, deadlineMs }]);
    }
  }
}

function instanceReady({ rules, at }: RoomsContext, travel: Travel, command: Doing<"travel.instance-ready">): Decision {
  if (travel.step !== "preparing" || kindOf(travel) !== "dedicated") return nothingToDo;
  const { room, run } = travel;
  const { instance, address } = command;
  const destination = { by: "dedicated", instance, address } as const;
  const deadlineMs = at + rules.travel.boardMs;
  return accept([
    { kind: "travel.boarding", room, run, destination, detail: "the instance answers and has the match", deadlineMs },
  ]);
}

function markAshore({ state }: RoomsContext, run: string, player: PlayerId): Decision {
  const room = state.rooms.byId.get(state.players.byId.get(player)?.room ?? "");
  if (room?.stage.phase !== "playing" || room.stage.run !== run || !room.members.get(player)?.aboard)
    return nothingToDo;
  return accept([{ kind: "travel.ashore", room: room.id, run, player }]);
}

/** Once the others are on the way the barrier does not wait for newcomers: they get a pass and follow. */
function admit(travel: Travel, player: TravellerNamed): Decision {
  if (travel.step !== "preparing" || travel.travellers.has(player.id)) return nothingToDo;
  const { room, run } = travel;
  return accept([{ kind: "travel.joined", room, run, player }]);
}

function forget(context: RoomsContext, travel: Travel, command: Doing<"travel.forget">): Decision {
  const { player } = command;
  const { room, run, travellers, hosting } = travel;
  // Who came after the others is not waited for, but may have a berth in a member's world.
  if (!travellers.has(player)) return forgetInWorld(context, command);
  if (travellers.size === 1) return fail(travel, "travel-deadline", "Nobody is left to travel.");
  const min = minOf(roomOf(context, travel));
  if (travellers.size - 1 < min) {
    const left = `${travellers.get(player)?.name ?? player} has left`;
    return fail(travel, "start-not-possible", `${left}, and a run needs ${min} players.`);
  }
  const forgot: TravelEvent = { kind: "travel.forgot", room, run, player };
  if (hosting?.player === player) {
    const next = forfeit(context, travel, "world-declined", "The member who was to run the world has left.");
    return "refused" in next ? next : accept([forgot, ...next.events]);
  }
  const freed = context.state.travels.worlds.get(room)?.berths.has(player)
    ? [{ kind: "travel.berth-freed", room, run, player } as const]
    : [];
  return accept([forgot, ...freed, ...completionIf(travel, roomOf(context, travel), { goes: player })]);
}

function loseInstance(
  context: RoomsContext,
  travel: Travel,
  { detail, portTaken }: Doing<"travel.lose-instance">,
): Decision {
  const { rules, at } = context;
  const { room, run, attempt, step } = travel;
  // It was held from the run before, and the room goes another way by now.
  if (kindOf(travel) !== "dedicated") return nothingToDo;
  if (attempt >= rules.travel.attempts && !portTaken) {
    return forfeit(
      context,
      travel,
      "no-instance",
      `No instance came up in ${attempt} attempts; the last one: ${detail}`,
    );
  }
  // Who was on the way already starts anew, with the whole time for it.
  const deadline = step === "boarding" && { deadlineMs: at + rules.travel.prepareMs };
  return accept([
    { kind: "travel.retried", room, run, attempt: portTaken ? attempt : attempt + 1, detail, ...deadline },
  ]);
}

function expire(context: RoomsContext, travel: Travel): Decision {
  const { rules } = context;
  if (travel.step === "preparing") {
    const seconds = rules.travel.prepareMs / 1000;
    const what = {
      dedicated: `No instance was ready within ${seconds} s.`,
      "player-hosted": `The member who was asked to run the world did not offer it within ${seconds} s.`,
      relayed: `Relaying was not ready within ${seconds} s.`,
    }[kindOf(travel)];
    return forfeit(context, travel, "travel-deadline", what);
  }
  const room = roomOf(context, travel);
  if (opensAtDeadline(travel, room)) return accept(completion(travel));
  const { there, missing } = tally(travel);
  const few = travel.stragglers === "wait" ? "" : ` ${there} have, and the room needs ${minOf(room)}.`;
  // What a member has told of its own trouble is why, and not that it was late.
  const troubles = missing.flatMap((id) => {
    const one = travel.travellers.get(id);
    return one?.trouble == null ? [] : ` ${one.name} cannot get there: ${one.trouble}.`;
  });
  const seconds = rules.travel.boardMs / 1000;
  const detail =
    missing.length === 0
      ? `Nobody more has come within ${seconds} s: ${there} are there, and the room needs ${minOf(room)}.`
      : `${namesOf(travel, missing)} did not arrive within ${seconds} s.${few}${troubles.join("")}`;
  return fail(travel, "travel-deadline", detail);
}
