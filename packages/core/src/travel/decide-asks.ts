import type { Revised } from "@yellow-harbor/protocol";
import { type PlayerId, type PlayerReply, phaseWords, type RunId } from "@yellow-harbor/protocol";
import type { Berth } from "../model/berth.ts";
import { accept, type Decision, type Refusal, type RoomsContext, refuse } from "../model/decision.ts";
import { placeOf, type Room, revisionReply, roomOf, runOf, unknownRoom } from "../model/find-room.ts";
import type { Handlers } from "../model/handlers.ts";
import { matchFor } from "../model/pools/holds.ts";
import type { RoomsPart } from "../model/state.ts";
import type { TravelAsk, TravelAskCommand, TravelCommand } from "../model/travel/commands.ts";
import type { TravelEvent } from "../model/travel/events.ts";
import { kindOf, type Travel } from "../model/travel/state.ts";
import { arrive, fail, follow, forfeit, type OnTheWay } from "./course.ts";
import { addWorldBerth, addWorldSpectator, boardWorld, offer } from "./worlds.ts";

/** Decides what a member asks who is on its way, or there. */
const asked =
  <A extends Exclude<TravelAsk, "travel.board">>(
    decide: (context: RoomsContext, way: OnTheWay, args: Asked<A>["args"]) => Decision<PlayerReply<A>>,
  ) =>
  (context: RoomsContext, { player, args }: Asked<A>): Decision<PlayerReply<A>> => {
    const way = onTheWay(context, player, args.run);
    return "refused" in way ? way : decide(context, way, args);
  };

interface Asked<A extends TravelAsk> {
  readonly player: PlayerId;
  readonly args: Extract<TravelAskCommand, { do: A }>["args"] & { readonly run: RunId };
}

/** What members say on their way. */
export const asksOfTravel: Handlers<TravelAskCommand, RoomsPart> = {
  "travel.board": boardWorld,
  "travel.progress": asked<"travel.progress">((_moment, way, { percent }) => progress(way, percent)),
  "travel.arrive": asked<"travel.arrive">(sayArrived),
  "travel.abort": asked<"travel.abort">((context, way, { reason }) => abort(context, way, reason)),
  "travel.offer": asked<"travel.offer">((_moment, way, { addresses }) => offer(way, addresses)),
  "travel.decline": asked<"travel.decline">((context, way, { reason }) => decline(context, way, reason)),
  "travel.trouble": asked<"travel.trouble">((context, way, { reason }) => trouble(context, way, reason)),
  "travel.pass": (context, command) =>
    spectatorPass(context, command) ?? asked<"travel.pass">(passAnew)(context, command),
};

/** Who looks on gets a new pass where its own was not used in time; undefined for members. */
function spectatorPass(
  context: RoomsContext,
  { player: id, args: { run } }: Asked<"travel.pass">,
): Decision<PlayerReply<"travel.pass">> | undefined {
  const { state } = context;
  const room = state.rooms.byId.get(state.players.byId.get(id)?.room ?? "");
  const spectator = room?.spectators.get(id);
  if (room === undefined || spectator === undefined) return undefined;
  const by = runOf(room) === run ? placeOf(room)?.by : undefined;
  if (by !== "dedicated" && by !== "player-hosted") {
    const where = "on an instance or in a member's world";
    return refuse("travel-over", `Room ${room.code} does not play ${run} ${where}; look at the room again.`);
  }
  if (by === "player-hosted") return spectatorPassOfWorld(context, room, { id, run });
  const player = { id, name: spectator.name, place: spectator.place };
  return accept([{ kind: "travel.pass-requested", room: room.id, run, player }], {
    reply: revisionReply(room.id),
  });
}

function spectatorPassOfWorld(
  context: RoomsContext,
  { id: room }: Pick<Room, "id">,
  { id: player, run }: { readonly id: PlayerId; readonly run: RunId },
): Decision<PlayerReply<"travel.pass">> {
  const tooSoon = passTooSoon(context, berthOf(context, room, player));
  if (tooSoon) return tooSoon;
  const wanted = { do: "travel.add-spectator", room, run, player, always: true } as const;
  const decision = addWorldSpectator(context, wanted);
  return "refused" in decision ? decision : { ...decision, reply: revisionReply(room) };
}

function onTheWay({ state }: RoomsContext, player: PlayerId, run: RunId): OnTheWay | Refusal {
  const found = roomOf(state, player);
  if ("refused" in found) return found;
  const { room, member } = found;
  const present = runOf(room);
  if (present !== run) {
    const now = present === null ? `no run is under way` : `the run is ${present}`;
    return refuse(
      "travel-over",
      `Room ${room.code} ${phaseWords[room.stage.phase]} and ${now}, not ${run}; look at the room again.`,
    );
  }
  const travel = state.travels.byRun.get(run);
  return { room, member, run, travel, traveller: travel?.travellers.get(player) };
}

/** The travel itself, or why the request comes too late for it. */
function underWay({ travel, room }: OnTheWay): Travel | Refusal {
  return travel ?? refuse("travel-over", `Room ${room.code} has arrived; the travel to this run is over.`);
}

function progress(way: OnTheWay, percent: number): Decision<Revised> {
  const { room, run, member, traveller } = way;
  const reply = revisionReply(room.id);
  const travel = underWay(way);
  if ("refused" in travel) return travel;
  // Who comes late is not waited for, so nobody looks at how far it is.
  if (traveller === undefined || traveller.arrived || traveller.percent === percent) return accept([], { reply });
  if (percent < traveller.percent) {
    const detail = `${percent} is less than the ${traveller.percent} that were told before; loading only goes forward.`;
    const fields = [{ path: "args.percent", message: `expected ${traveller.percent} to 100` }];
    return refuse("progress-backwards", detail, { fields });
  }
  return accept([{ kind: "travel.progressed", room: room.id, run, player: member.id, percent }], { reply });
}

function sayArrived(context: RoomsContext, way: OnTheWay): Decision<Revised> {
  const { room, run, member, travel, traveller } = way;
  const by = travel === undefined ? placeOf(room)?.by : kindOf(travel);
  if (traveller?.arrived || member.aboard) {
    return refuse("arrived-already", "You have arrived already; the room knows.");
  }
  if (travel !== undefined && travel.step !== "boarding") {
    return refuse("wrong-phase", "There is no place to arrive at yet; wait until the travel is boarding.");
  }
  if (by !== "relayed") {
    const who = by === "dedicated" ? "the instance" : "the member who runs the world";
    return refuse("arrival-not-yours", `Here ${who} tells that you have arrived, when it takes your boarding pass.`);
  }
  const decision = traveller && travel ? arrive(context, travel, member.id) : follow(context, run, member.id);
  return "refused" in decision ? decision : accept(decision.events, { reply: revisionReply(room.id) });
}

function abort(context: RoomsContext, way: OnTheWay, reason: string | undefined): Decision<Revised> {
  const { room, member } = way;
  const powers = roomOf(context.state, member.id, { hostOnly: "give the travel up" });
  if ("refused" in powers) return powers;
  const travel = underWay(way);
  if ("refused" in travel) return travel;
  const because = reason === undefined ? "." : `: ${reason}`;
  return fail(travel, "travel-aborted", `${member.name}, host of room ${room.code}, gave it up${because}`, {
    by: member.id,
  });
}

export function operatorAbort(
  { state }: RoomsContext,
  { room: id, reason }: Extract<TravelCommand, { do: "travel.operator-abort" }>,
): Decision<Revised> {
  const room = state.rooms.byId.get(id);
  if (room === undefined) return unknownRoom(id);
  const travel = state.travels.byRun.get(runOf(room) ?? "");
  if (travel === undefined)
    return refuse("wrong-phase", `Room ${room.code} ${phaseWords[room.stage.phase]}; it is not travelling.`);
  return fail(travel, "travel-aborted", `An operator gave it up${reason === undefined ? "." : `: ${reason}`}`, {
    by: null,
  });
}

function decline(context: RoomsContext, way: OnTheWay, reason: string): Decision<Revised> {
  const travel = underWay(way);
  if ("refused" in travel) return travel;
  const { member, room } = way;
  if (travel.hosting?.player !== member.id || travel.step !== "preparing") {
    return refuse(
      "destination-not-requested",
      "You are not asked to run the world now, so there is nothing to decline.",
    );
  }
  const next = forfeit(context, travel, "world-declined", `${member.name} cannot run the world: ${reason}`);
  return "refused" in next ? next : accept(next.events, { reply: revisionReply(room.id) });
}

/** Who cannot reach a member's world brings everybody to the next destination; an instance's trouble is shown. */
function trouble(context: RoomsContext, way: OnTheWay, why: string): Decision<Revised> {
  const { room, run, member } = way;
  const travel = underWay(way);
  if ("refused" in travel) return travel;
  if (travel.step !== "boarding") {
    return refuse("wrong-phase", "There is no place to go to yet; wait until the travel is boarding.");
  }
  const troubled: TravelEvent = { kind: "travel.troubled", room: room.id, run, player: member.id, why };
  const hasWayOut = kindOf(travel) === "player-hosted" && travel.options[travel.option + 1] !== undefined;
  const next = hasWayOut
    ? forfeit(context, travel, "world-unreachable", `${member.name} cannot reach the world: ${why}`)
    : undefined;
  const events = next && !("refused" in next) ? next.events : [];
  return accept([...(way.traveller ? [troubled] : []), ...events], { reply: revisionReply(room.id) });
}

/** Each new pass is an order to the instance: nobody keeps it busy with them. */
const RENEW_MS = 2_000;

function berthOf({ state }: RoomsContext, room: string, player: PlayerId): Berth | undefined {
  const held = matchFor(state.seen.pools.heldBy(room), room) ?? state.travels.worlds.get(room);
  return held?.berths.get(player);
}

function passTooSoon({ at, rules }: RoomsContext, berth: Berth | undefined): Refusal | undefined {
  // A pass from before the address was known lasts longer: it seems to be of a time to come, and is no reason to wait.
  const ageMs = at - ((berth?.expiresAtMs ?? 0) - rules.travel.boardMs);
  if (berth?.state !== "reserved" || ageMs < 0 || ageMs >= RENEW_MS) return undefined;
  return refuse("pass-too-soon", `You were given a pass less than ${RENEW_MS / 1000} s ago; use that, or wait.`);
}

/** A fresh pass for who has none that works: the one before is worth nothing from then on. */
function passAnew(context: RoomsContext, { room, run, member, travel }: OnTheWay): Decision<Revised> {
  const by = travel === undefined ? placeOf(room)?.by : kindOf(travel);
  if (travel?.step === "preparing") {
    return refuse("wrong-phase", "There is no place to go to yet; the pass comes by itself.");
  }
  if (by === "relayed")
    return refuse("destination-not-requested", "Where the service relays nobody needs a pass; say travel.arrive.");
  const { id, name, place } = member;
  const berth = berthOf(context, room.id, id);
  const tooSoon = passTooSoon(context, berth);
  if (tooSoon) return tooSoon;
  const player = { id, name, place };
  const reply = revisionReply(room.id);
  if (by === "dedicated") return accept([{ kind: "travel.pass-requested", room: room.id, run, player }], { reply });
  const wanted = { do: "travel.add-berth", room: room.id, run, player, anew: true, always: true } as const;
  const decision = addWorldBerth(context, wanted);
  return "refused" in decision ? decision : { ...decision, reply };
}
