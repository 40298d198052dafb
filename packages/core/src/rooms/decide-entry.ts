import type { PlayerArgs, PlayerId } from "@yellow-harbor/protocol";
import { accept, type Decision, type Moment, refuse } from "../harbor/decision.ts";
import { newId } from "../harbor/stamp.ts";
import { codeOf } from "./codes.ts";
import type { Room } from "./state.ts";
import { roomView } from "./view.ts";

export function open({ state, rules, chance }: Moment, id: PlayerId, args: PlayerArgs<"room.open">): Decision {
  const player = state.players.byId.get(id);
  if (player === undefined) return unknownPlayer();
  if (player.room !== null) return alreadyInRoom(state.rooms.byId.get(player.room));
  const allowed = rules.lobbies.get(player.lobby)?.roomKinds ?? [];
  const kindName = args.kind ?? allowed[0];
  const kind = kindName !== undefined && allowed.includes(kindName) ? rules.roomKinds.get(kindName) : undefined;
  if (kindName === undefined || kind === undefined) {
    const detail = `Lobby ${player.lobby} has no room kind ${args.kind}; it has ${allowed.join(", ")}.`;
    return refuse("room-kind-unknown", detail, { accepted: [...allowed] });
  }
  const capacity = args.capacity ?? kind.capacity.preset;
  const { least, most } = kind.capacity;
  if (capacity < least || capacity > most) {
    const detail = `Capacity ${capacity} is out of range: rooms of kind ${kindName} take ${least} to ${most} players.`;
    return refuse("capacity-out-of-range", detail, {
      fields: [{ path: "args.capacity", message: `expected ${least} to ${most}` }],
    });
  }
  const room = newId("r", chance);
  return accept(
    [
      {
        kind: "room.opened",
        room,
        code: codeOf(state.rooms.opened, state.rooms.codeKey),
        name: args.name ?? `${player.name}'s room`,
        lobby: player.lobby,
        roomKind: kindName,
        capacity,
        leastPlayers: kind.leastPlayers,
        graceMs: kind.graceMs,
        countdownMs: kind.countdownMs,
        autoStart: kind.autoStart,
        host: id,
        hostName: player.name,
      },
    ],
    { reply: pictureReply(room) },
  );
}

export function join({ state }: Moment, id: PlayerId, args: PlayerArgs<"room.join">): Decision {
  const player = state.players.byId.get(id);
  if (player === undefined) return unknownPlayer();
  const roomId = "room" in args ? args.room : state.rooms.byCode.get(args.code);
  const room = roomId === undefined ? undefined : state.rooms.byId.get(roomId);
  if (room === undefined) {
    return "room" in args
      ? refuse("room-unknown", `There is no room ${args.room}; it may have closed. Look at lobby.rooms.`)
      : refuse("room-code-unknown", `No open room has the code ${args.code}; check it with whoever gave it to you.`);
  }
  if (player.room !== null) return alreadyInRoom(state.rooms.byId.get(player.room));
  const closed = whyNot(room, id, "room" in args);
  if (closed) return closed;
  const place = lowestFreePlace(room);
  return accept([{ kind: "room.joined", room: room.id, lobby: room.lobby, player: id, name: player.name, place }], {
    reply: pictureReply(room.id),
  });
}

/** Why a player is not let into a room that is there; each cause has a code of its own. */
function whyNot(room: Room, player: PlayerId, byId: boolean): Decision | undefined {
  if (room.banned.has(player))
    return refuse("put-out-of-room", `You were put out of room ${room.code} for good; seek another one.`);
  if (room.visibility === "locked")
    return refuse("room-locked", `Room ${room.code} is locked; its host has to open it first.`);
  if (byId && room.visibility === "code-only") {
    return refuse("room-code-needed", "This room is joined by its code alone; ask a member for it.");
  }
  if (room.phase !== "gathering") {
    return refuse("room-started", `Room ${room.code} is ${room.phase}; it can be joined again once it is gathering.`);
  }
  if (room.members.size >= room.capacity) {
    return refuse("room-full", `Room ${room.code} is full: ${room.members.size} of ${room.capacity} places are taken.`);
  }
  return undefined;
}

/**
 * The best room that would let the player in, else a new one. Commands are decided one after the other, so two who seek
 * at once meet: the second finds the room that the first has just opened.
 */
export function seek(moment: Moment, id: PlayerId, { kind, level }: PlayerArgs<"room.seek">): Decision {
  const { state } = moment;
  const player = state.players.byId.get(id);
  if (player === undefined) return unknownPlayer();
  if (player.room !== null) return alreadyInRoom(state.rooms.byId.get(player.room));
  const rooms = [...(state.lobbies.byId.get(player.lobby)?.rooms ?? [])].flatMap(
    (room) => state.rooms.byId.get(room) ?? [],
  );
  const fits = rooms.filter(
    (room) =>
      (kind === undefined || room.kind === kind) &&
      (level === undefined || room.level?.id === level) &&
      whyNot(room, id, true) === undefined,
  );
  // Fewest free places first; the lobby keeps its rooms in the order of their age, and sorting is stable.
  const [best] = fits.sort((a, b) => a.capacity - a.members.size - (b.capacity - b.members.size));
  if (best === undefined) return withReply(open(moment, id, { ...(kind !== undefined && { kind }) }), { opened: true });
  return withReply(join(moment, id, { room: best.id }), { opened: false });
}

function withReply(decision: Decision, more: Record<string, unknown>): Decision {
  if ("refused" in decision) return decision;
  return { ...decision, reply: (state) => ({ ...decision.reply?.(state), ...more }) };
}

function lowestFreePlace(room: Room): number {
  const taken = new Set([...room.members.values()].map((member) => member.place));
  let place = 0;
  while (taken.has(place)) place++;
  return place;
}

const pictureReply = (id: string) => (state: Moment["state"]) => {
  const room = state.rooms.byId.get(id);
  return room === undefined ? {} : { room: roomView(state, room) };
};

const unknownPlayer = () => refuse("player-unknown", "The player has left; connect again.");

const alreadyInRoom = (room: Room | undefined) =>
  refuse("already-in-room", `You are in room ${room?.code} already; leave it first.`);
