import { type PlayerId, policyOf, type RoomId } from "@yellow-harbor/protocol";
import { accept, type Decision, type RoomsContext, refuse } from "../../model/decision.ts";
import type { RoomCommand } from "../../model/rooms/commands.ts";
import type { AdmittedMember, RoomEvent } from "../../model/rooms/events.ts";
import { openPlaces } from "../../model/rooms/reservations.ts";
import { freePlaces, sideSizes } from "../../model/rooms/sides.ts";
import { newId } from "../../model/stamp.ts";
import { codesUsedUp, freeCode } from "../entry/codes.ts";
import { shownOf } from "../entry/joining.ts";
import { firstSettings } from "../settings/declared.ts";
import { levelView } from "../settings/levels.ts";
import { startedEvent } from "./decide-start.ts";

type Convene = Extract<RoomCommand, { do: "room.convene" }>;

/** Opens the room of a match with all of its players in it, each on its side, or says why that cannot be. */
export function convene(
  { state, rules, random }: RoomsContext,
  { match, queue, lobby, sides, roles }: Convene,
): Decision {
  const { roomKind = "", title = queue } = rules.queues.get(queue) ?? {};
  const kind = rules.roomKinds.get(roomKind);
  if (kind === undefined)
    return refuse("room-kind-unknown", `The rooms of queue ${queue} are not configured any more.`);
  const players = sides.flat();
  const missing = players.find((id) => state.players.byId.get(id)?.room !== null);
  if (missing !== undefined) return refuse("player-unknown", `${missing} is not free any more.`);
  const level = kind.levels.find((id) => {
    const known = rules.levels.get(id);
    return known !== undefined && known.min <= players.length && players.length <= known.max;
  });
  if (level === undefined) {
    return refuse("level-not-allowed", `Rooms of kind ${roomKind} have no level for ${players.length} players.`);
  }
  const names = kind.sides?.names;
  const admitted = sides.flatMap((side, n) => side.map((id) => ({ id, side: names?.[n] })));
  const [host, ...others] = admitted.map((one, place) =>
    seatOf({ state, rules }, { ...one, role: roles?.[one.id] }, place),
  );
  if (host === undefined) return refuse("everybody-left", "The match has no players.");
  const room = newId("r", random);
  const free = freeCode(state.rooms, rules);
  if (free === undefined) return codesUsedUp(state.rooms.byCode.size);
  const picked = levelView(rules, level);
  const first = firstSettings({ kind: roomKind, rules: kind }, {});
  if ("refused" in first) return first;
  const build = state.players.byId.get(host.id)?.build ?? "";
  const opened: RoomEvent = {
    kind: "room.opened",
    room,
    ...free,
    lobby,
    roomKind,
    build,
    policy: policyOf(kind),
    name: title,
    capacity: kind.capacity.max,
    host: host.id,
    hostName: host.name,
    ...(picked && { level: picked }),
    ...(Object.keys(first.settings).length > 0 && { settings: first.settings }),
    ...(host.side !== undefined && { side: host.side }),
    ...(host.role !== undefined && { role: host.role }),
    ...(host.latency && { latency: host.latency }),
    ...(host.attributes && { attributes: host.attributes }),
    match: { id: match, others },
  };
  return accept([opened]);
}

function seatOf(
  { state, rules }: Pick<RoomsContext, "state" | "rules">,
  { id, side, role }: { readonly id: PlayerId; readonly side: string | undefined; readonly role: string | undefined },
  place: number,
): AdmittedMember {
  const player = state.players.byId.get(id);
  return {
    id,
    name: player?.name ?? id,
    place,
    ...(side !== undefined && { side }),
    ...(role !== undefined && { role }),
    ...(player?.latency && { latency: player.latency }),
    ...shownOf(rules, player),
  };
}

/** The players have asked for a match: nobody has to press start. */
export function launchMatch(context: RoomsContext, id: RoomId): Decision {
  const room = context.state.rooms.byId.get(id);
  if (room === undefined) return refuse("room-unknown", `Room ${id} is gone.`);
  const started = startedEvent(context, room);
  return "kind" in started ? accept([started]) : started;
}

type TakeIn = Extract<RoomCommand, { do: "room.admit" }>;

/** Players come into a room that plays, all of them or none. */
export function takeIn({ state, rules }: RoomsContext, { match, room: id, sides, roles }: TakeIn): Decision {
  const room = state.rooms.byId.get(id);
  if (room === undefined) return refuse("room-unknown", `Room ${id} is gone.`);
  if (room.stage.phase !== "playing") return refuse("wrong-phase", `Room ${room.code} does not play any more.`);
  const names = room.policy.sides?.names;
  const joiningPlayers = sides.flatMap((side, n) => side.map((player) => ({ player, side: names?.[n] })));
  if (joiningPlayers.length > openPlaces(room)) {
    return refuse("room-full", `Room ${room.code} has no place for ${joiningPlayers.length} more.`);
  }
  const missing = joiningPlayers.find(({ player }) => state.players.byId.get(player)?.room !== null);
  if (missing !== undefined) return refuse("player-unknown", `${missing.player} is not free any more.`);
  const full = names?.find((name) => {
    const comes = joiningPlayers.filter(({ side }) => side === name).length;
    return comes > 0 && (sideSizes(room).get(name) ?? 0) + comes > (room.policy.sides?.max ?? 0);
  });
  if (full !== undefined) return refuse("side-full", `Side ${full} of room ${room.code} is full.`);
  const places = freePlaces(room, joiningPlayers.length);
  return accept(
    joiningPlayers.map(({ player, side }, n): RoomEvent => {
      const { id: _, ...seat } = seatOf({ state, rules }, { id: player, side, role: roles?.[player] }, places[n] ?? 0);
      return { kind: "room.joined", room: id, lobby: room.lobby, player, ...seat, match };
    }),
  );
}
