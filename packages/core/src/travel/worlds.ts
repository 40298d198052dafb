import {
  type Address,
  addressText,
  type PassId,
  type PlayerId,
  type PlayerReply,
  type Revised,
  type RoomId,
} from "@yellow-harbor/protocol";
import { checkBerth, isGood, passEndsMs } from "../model/berths.ts";
import { accept, type Decision, nothingToDo, type RoomsContext, refuse } from "../model/decision.ts";
import type { OfferedAddress } from "../model/effect.ts";
import { revisionReply, roomOf } from "../model/find-room.ts";
import { recordOf } from "../model/record.ts";
import { newId } from "../model/stamp.ts";
import type { TravelAskCommand, TravelCommand } from "../model/travel/commands.ts";
import type { TravelEvent } from "../model/travel/events.ts";
import type { Travel } from "../model/travel/state.ts";
import { arrive, completionIf, follow, forfeit, type OnTheWay } from "./course.ts";

type Doing<K extends TravelCommand["do"]> = Extract<TravelCommand, { do: K }>;

/** The room's host is asked to run the world, if it is here. */
export function askForWorld(context: RoomsContext, travel: Travel): Decision {
  const room = context.state.rooms.byId.get(travel.room);
  const host = room?.members.get(room.host ?? "");
  if (host === undefined || host.presence === "away" || !travel.travellers.has(host.id)) {
    return forfeit(context, travel, "world-declined", `${host?.name ?? "The host"} is not here to run the world.`);
  }
  return accept([{ kind: "travel.host-requested", room: travel.room, run: travel.run, player: host.id }]);
}

export function offer(
  { room, run, member, travel }: OnTheWay,
  addresses: readonly OfferedAddress[],
): Decision<Revised> {
  if (travel?.step !== "preparing" || travel.hosting?.player !== member.id) {
    return refuse("destination-not-requested", "You are not asked to run the world now; keep it to yourself.");
  }
  const reply = revisionReply(room.id);
  return accept([{ kind: "travel.offered", room: room.id, run, player: member.id, addresses }], {
    reply,
    effects: [{ effect: "probe-world", run, player: member.id, addresses }],
  });
}

/** Boarding begins with what was reached, or may be reached for all that the service can see. */
export function worldProbed(
  context: RoomsContext,
  travel: Travel,
  { player, probed }: Doing<"travel.world-probed">,
): Decision {
  const { room, run, hosting } = travel;
  if (travel.step !== "preparing" || hosting?.player !== player || hosting.offered === null) return nothingToDo;
  // Other addresses were offered since: those are being looked at now.
  const isNewest = JSON.stringify(probed.map(({ address }) => address)) === JSON.stringify(hosting.offered);
  if (!isNewest) return nothingToDo;
  const usable = [...probed.filter(({ reached }) => reached), ...probed.filter(({ reached }) => reached === null)];
  const detail = probed.map((one) => `${addressText(one.address)} ${one.detail}`).join("; ");
  const first = usable[0];
  if (first === undefined) return forfeit(context, travel, "world-unreachable", `Nothing answers: ${detail}.`);
  const { random, rules, at } = context;
  const guests = [...travel.travellers.keys()].filter((id) => id !== player);
  const passes = recordOf(guests.map((id): [PlayerId, PassId] => [id, newId("b", random)]));
  const addresses = usable.map(({ address: { probe: _, ...address } }): Address => address);
  const destination = { by: "player-hosted", player, addresses } as const;
  const deadlineMs = at + rules.travel.boardMs;
  const boarding: TravelEvent = { kind: "travel.boarding", room, run, destination, detail, deadlineMs, passes };
  // Whoever runs the world is in it.
  const arrived: TravelEvent = { kind: "travel.arrived", room, run, player };
  const aboard: Travel = { ...travel, step: "boarding", destination };
  return accept([boarding, arrived, ...completionIf(aboard, context.state.rooms.byId.get(room), { arrives: player })]);
}

/** One more for a world that is open already. */
export function addWorldBerth(
  context: RoomsContext,
  { room, run, player, anew, always }: Doing<"travel.add-berth"> & { readonly always?: boolean },
): Decision {
  const { state, at, random } = context;
  const world = state.travels.worlds.get(room);
  if (world?.run !== run || world.player === player.id) return nothingToDo;
  const travel = state.travels.byRun.get(run);
  if (!always && isGood(world.berths.get(player.id), { anew, at, travel })) return nothingToDo;
  const expiresAtMs = passEndsMs(context, travel);
  const { id, name, place } = player;
  const pass = newId("b", random);
  return accept([{ kind: "travel.berth-added", room, run, player: { id, name, place }, pass, expiresAtMs }]);
}

/** A berth for somebody who looks on, once the run plays; who has one that counts keeps it. */
export function addWorldSpectator(
  context: RoomsContext,
  { room: id, run, player, always }: Doing<"travel.add-spectator">,
): Decision {
  const { state, at, random } = context;
  const world = state.travels.worlds.get(id);
  const room = state.rooms.byId.get(id);
  const spectator = room?.spectators.get(player);
  if (world?.run !== run || spectator === undefined || room?.stage.phase !== "playing") return nothingToDo;
  const isKept = isGood(world.berths.get(player), { anew: false, at, travel: undefined });
  if (isKept && !always) return nothingToDo;
  const { name, place } = spectator;
  const [pass, expiresAtMs] = [newId("b", random), passEndsMs(context, undefined)];
  const added = { room: id, run, player: { id: player, name, place }, pass, expiresAtMs } as const;
  return accept([{ kind: "travel.berth-added", ...added, spectator: true }]);
}

/** The member who runs the world shows a pass: the same that an instance does. */
export function boardWorld(
  context: RoomsContext,
  { player: host, args }: Extract<TravelAskCommand, { do: "travel.board" }>,
): Decision<PlayerReply<"travel.board">> {
  const found = roomOf(context.state, host);
  if ("refused" in found) return found;
  const { room } = found;
  const world = context.state.travels.worlds.get(room.id);
  if (world?.player !== host) {
    return refuse(
      "destination-not-requested",
      `You do not run the world of room ${room.code}, so no pass is yours to look at.`,
    );
  }
  const { shown, attempt } = args;
  const check = checkBerth(world, shown, attempt);
  if (typeof check === "object") return check;
  const { run, level, berths } = world;
  const berth = berths.get(shown.player);
  const reply = () => ({
    player: { id: shown.player, name: berth?.name ?? "", place: berth?.place ?? 0 },
    run,
    level,
    ...(berth?.spectator && { spectator: true as const }),
  });
  if (check === "repeated") return accept([], { reply });
  const boarded: TravelEvent = {
    kind: "travel.boarded",
    room: room.id,
    run,
    player: shown.player,
    ...(attempt !== undefined && { attempt }),
  };
  // Who looks on arrives for nobody.
  if (berth?.spectator) return accept([boarded], { reply });
  const travel = context.state.travels.byRun.get(run);
  const arrival = travel?.travellers.has(shown.player)
    ? arrive(context, travel, shown.player)
    : follow(context, run, shown.player);
  return accept([boarded, ...("refused" in arrival ? [] : arrival.events)], { reply });
}

/** Somebody has left the room: its berth is free; when it ran the world, that is gone with it. */
export function forgetInWorld({ state }: RoomsContext, { room, run, player }: Doing<"travel.forget">): Decision {
  const world = state.travels.worlds.get(room);
  if (world?.run !== run) return nothingToDo;
  if (world.player === player) {
    return accept([{ kind: "travel.world-closed", room, run, lost: "The member who ran the world has left." }]);
  }
  return world.berths.has(player) ? accept([{ kind: "travel.berth-freed", room, run, player }]) : nothingToDo;
}

export function closeWorld({ state }: RoomsContext, room: RoomId): Decision {
  const world = state.travels.worlds.get(room);
  return world === undefined ? nothingToDo : accept([{ kind: "travel.world-closed", room, run: world.run }]);
}
