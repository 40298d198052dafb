import {
  type AccountId,
  CODE_ALPHABET,
  CODE_LENGTH,
  type LevelView,
  type PlayerArgs,
  type PlayerId,
  policyOf,
  type RoomId,
  type RoomKindRules,
} from "@yellow-harbor/protocol";
import { accept, type Decision, type Refusal, type RoomsContext, refuse } from "../../model/decision.ts";
import type { Player } from "../../model/players/state.ts";
import { friendSeen, knows } from "../../model/relations/known.ts";
import type { RoomEvent } from "../../model/rooms/events.ts";
import { mayFollow } from "../../model/rooms/following.ts";
import { reservationOf } from "../../model/rooms/reservations.ts";
import type { Room } from "../../model/rooms/state.ts";
import { newId } from "../../model/stamp.ts";
import type { RoomsPart } from "../../model/state.ts";
import { nameKey, openRows } from "../directory/open-index.ts";
import { bestOf } from "../directory/preference.ts";
import { pickableIn } from "../settings/decide-settings.ts";
import { firstSettings } from "../settings/declared.ts";
import { levelView } from "../settings/levels.ts";
import { unknownRegion } from "../settings/regions.ts";
import { obstacles } from "../start/obstacles.ts";
import { codesUsedUp, freeCode } from "./codes.ts";
import { partyApart, whyApart } from "./companions.ts";
import { type InRoom, type Joining, joinFor, joiningPlayerOf, shownOf, stateReply } from "./joining.ts";

export function open(context: RoomsContext, id: PlayerId, args: PlayerArgs<"room.open">): Decision<InRoom> {
  const joining = joiningPlayerOf(context, id, args);
  return "refused" in joining ? joining : openFor(context, joining, args);
}

export function join(context: RoomsContext, id: PlayerId, args: PlayerArgs<"room.join">): Decision<InRoom> {
  const found = wantedRoom(context, id, args);
  if ("refused" in found) return found;
  const { room } = found;
  const joining = joiningPlayerOf(context, id, args, room);
  if ("refused" in joining) return joining;
  const isTrusted = room.spectators.has(id);
  const way = { byCode: !("room" in args) || isTrusted, isTrusted, password: args.password, side: args.side };
  return joinFor(context, joining, room, way);
}

/** How somebody names the room it wants into. */
type Named = { readonly room: RoomId } | { readonly code: string } | { readonly friend: AccountId };

/** The room that somebody names by id or code, or by whom it knows there. Of one that is joined by its code alone nobody learns by its id. */
export function wantedRoom(
  { state }: RoomsContext,
  id: PlayerId,
  args: Named,
): { readonly room: Room; readonly player: Player } | Refusal {
  const player = state.players.byId.get(id);
  if (player === undefined) return refuse("player-unknown", "The player has left; connect again.");
  if ("friend" in args) return friendsRoom(state, player, args.friend);
  const room = state.rooms.byId.get(("room" in args ? args.room : state.rooms.byCode.get(args.code)) ?? "");
  const isKnown = room !== undefined && (room.members.has(id) || room.spectators.has(id));
  const isExpected = room !== undefined && reservationOf(room, player) !== undefined;
  const isHidden = room?.visibility === "code-only" && "room" in args && !isKnown && !isExpected;
  if (room !== undefined && !isHidden) return { room, player };
  return "room" in args
    ? refuse("room-unknown", `There is no room ${args.room}; it may have closed. Look at lobby.rooms.`)
    : refuse("room-code-unknown", unknownCode(args.code));
}

/** Where a friend is. Of one who hides, has left, or is where nobody follows, nothing else is learnt. */
function friendsRoom(
  state: RoomsPart,
  player: Player,
  account: AccountId,
): { readonly room: Room; readonly player: Player } | Refusal {
  if (!knows(state, player.id, account)) {
    return refuse("not-friends", `You do not know ${account}, by the word of the game's back end; see friends.list.`);
  }
  const room = state.rooms.byId.get(friendSeen(state, player, account)?.room ?? "");
  if (room !== undefined && mayFollow(room)) return { room, player };
  return refuse("friend-elsewhere", `${account} is in no room that you could follow into; see friends.list.`);
}

const unknownCode = (code: string) => {
  const isCode = code.length === CODE_LENGTH && [...code].every((one) => CODE_ALPHABET.includes(one));
  const form = isCode ? "" : ` Codes have ${CODE_LENGTH} characters out of ${CODE_ALPHABET}.`;
  return `No open room has the code ${code}; check it with whoever gave it to you.${form}`;
};

/** The listed room of a name, else a new one: people who agree on a name meet. */
export function joinOrOpen(
  context: RoomsContext,
  id: PlayerId,
  args: PlayerArgs<"room.join-or-open">,
): Decision<InRoom & { opened: boolean }> {
  const { rooms, players } = context.state;
  const lobby = players.byId.get(id)?.lobby ?? "";
  // The oldest first, however they came by their name: so it is the same room after a restart, too.
  const named = [...(rooms.byName.get(nameKey(lobby, args.name)) ?? [])]
    .flatMap((room) => rooms.byId.get(room) ?? [])
    .sort((a, b) => a.openedAtMs - b.openedAtMs || (a.id < b.id ? -1 : 1));
  const listed = named.filter((room) => room.visibility !== "code-only");
  const present = listed.find((room) => room.members.has(id));
  const joining = joiningPlayerOf(context, id, args, present);
  if ("refused" in joining) return joining;
  const way = { byCode: false };
  const room = listed.find((one) => obstacles(one, joining.player, way).length === 0) ?? listed[0];
  if (room === undefined) return chatOpened(openFor(context, joining, args), true);
  return chatOpened(joinFor(context, joining, room, way), false);
}

/**
 * The best room that would let the player in, else a new one. Commands are decided one after the other, so two who quick-join
 * at once meet: the second finds the room that the first has just opened.
 */
export function quickJoin(
  context: RoomsContext,
  id: PlayerId,
  { move, alone, ...wish }: PlayerArgs<"room.quick-join">,
): Decision<InRoom & { opened: boolean }> {
  const joining = joiningPlayerOf(context, id, { move, alone });
  if ("refused" in joining) return joining;
  const { player, companions } = joining;
  const { kind, level, settings = {} } = wish;
  const rules = context.rules.lobbies.get(player.lobby);
  const unknown =
    level === undefined || context.rules.levels.has(level)
      ? unknownRegion(context.rules, wish.region)
      : unknownLevel(context, level);
  if (unknown) return unknown;
  const kinds = kind === undefined ? (rules?.roomKinds ?? []) : [kind];
  const isWanted = (room: Room) =>
    (wish.region === undefined || room.region === wish.region) &&
    Object.entries(settings).every(([key, value]) => room.settings[key] === value);
  const way = { byCode: false };
  const quickJoinBy = rules?.quickJoinBy ?? ["places", "age"];
  const isFor = (room: Room) =>
    obstacles(room, player, way).length === 0 && whyApart(room, player, companions.players) === undefined;
  const candidates: Room[] = [];
  for (const row of openRows(context.state.rooms, player.lobby, { kinds, level })) {
    candidates.push(...row.filter((room) => room.id !== player.room && isWanted(room) && isFor(room)));
    // Where free places come first, no later row can be better.
    if (candidates.length > 0 && quickJoinBy[0] === "places") break;
  }
  const best = bestOf(candidates, quickJoinBy);
  if (best === undefined) return chatOpened(openFor(context, joining, wish), true);
  return chatOpened(joinFor(context, joining, best, way), false);
}

/** The room somebody wants: one value for whoever opens one, and for whoever takes any that is like it. */
type Wish = Omit<PlayerArgs<"room.open">, "move" | "alone">;

const unknownLevel = ({ rules }: RoomsContext, level: string): Refusal =>
  refuse("level-unknown", `There is no level ${level}; the levels are ${[...rules.levels.keys()].join(", ")}.`, {
    accepted: [...rules.levels.keys()],
  });

/** The kind of room that is to be opened, with the places it is to have. */
export function kindFor({ rules }: RoomsContext, lobby: string, args: Pick<Wish, "kind" | "level" | "capacity">) {
  const allowed = rules.lobbies.get(lobby)?.roomKinds ?? [];
  const hasLevel = (one: string) => args.level === undefined || rules.roomKinds.get(one)?.levels.includes(args.level);
  const kindName = args.kind ?? allowed.find(hasLevel) ?? allowed[0];
  const kind = kindName !== undefined && allowed.includes(kindName) ? rules.roomKinds.get(kindName) : undefined;
  if (kindName === undefined || kind === undefined) {
    const detail = `Lobby ${lobby} has no room kind ${args.kind}; it has ${allowed.join(", ")}.`;
    return refuse("room-kind-unknown", detail, { accepted: [...allowed] });
  }
  const capacity = args.capacity ?? kind.capacity.default;
  const { min, max } = kind.capacity;
  if (capacity < min || capacity > max) {
    const detail = `Capacity ${capacity} is out of range: rooms of kind ${kindName} take ${min} to ${max} players.`;
    return refuse("capacity-out-of-range", detail, {
      fields: [{ path: "args.capacity", message: `expected ${min} to ${max}` }],
    });
  }
  return { kindName, kind, capacity };
}

/** The level that a new room has: the one that is wanted, or the one that is not for its host to pick. */
export function firstLevel(
  context: RoomsContext,
  { kindName, kind }: { readonly kindName: string; readonly kind: RoomKindRules },
  wanted: string | undefined,
): LevelView | Refusal | undefined {
  const { levelBy, levels } = kind;
  const picked = wanted === undefined ? undefined : pickableIn(context, { kind: kindName, levelBy }, wanted);
  if (levelBy === "host" || (picked && "refused" in picked)) return picked;
  return levelView(context.rules, levels[0] ?? "");
}

function openFor(context: RoomsContext, { player, leaving, companions }: Joining, args: Wish): Decision<InRoom> {
  const { state, rules, random } = context;
  const found = kindFor(context, player.lobby, args);
  if ("refused" in found) return found;
  const { kindName, kind } = found;
  const size = companions.players.length + 1;
  // A party needs room for all of it, whatever such rooms usually have.
  const capacity = args.capacity ?? Math.min(kind.capacity.max, Math.max(found.capacity, size));
  if (size > capacity) return partyApart(`The room would take ${capacity}, and you are ${size} together`);
  const unknown = unknownRegion(rules, args.region);
  if (unknown) return unknown;
  const room = newId("r", random);
  const free = freeCode(state.rooms, rules);
  if (free === undefined) return codesUsedUp(state.rooms.byCode.size);
  const side = kind.sides?.names[0];
  const level = firstLevel(context, found, args.level);
  if (level !== undefined && "refused" in level) return level;
  const first = firstSettings({ kind: kindName, rules: kind }, args);
  if ("refused" in first) return first;
  const opened: RoomEvent = {
    kind: "room.opened",
    room,
    ...free,
    capacity,
    lobby: player.lobby,
    roomKind: kindName,
    name: args.name ?? `${player.name}'s room`,
    build: player.build,
    policy: policyOf(kind),
    host: player.id,
    hostName: player.name,
    ...(level && { level }),
    ...(args.region !== undefined && { region: args.region }),
    ...(args.visibility !== undefined && { visibility: args.visibility }),
    ...(args.password !== undefined && { password: args.password }),
    ...(Object.keys(first.settings).length > 0 && { settings: first.settings }),
    ...(side !== undefined && { side }),
    ...(player.latency && { latency: player.latency }),
    ...shownOf(rules, player),
  };
  return accept([...leaving, opened, ...companions.called(room)], { reply: stateReply(room) });
}

/** Says besides whether the room is new. */
function chatOpened(decision: Decision<InRoom>, opened: boolean): Decision<InRoom & { opened: boolean }> {
  if ("refused" in decision) return decision;
  const { reply } = decision;
  return { ...decision, reply: reply && ((state) => ({ ...reply(state), opened })) };
}
