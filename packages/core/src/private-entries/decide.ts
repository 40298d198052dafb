import type { BoardKey, PlayerId, PlayerReply, PrivateReaders, RoomId } from "@yellow-harbor/protocol";
import { bytesOf } from "../model/bytes-of.ts";
import { accept, type Decision, nothingToDo, type Refusal, type RoomsContext, refuse } from "../model/decision.ts";
import { roomOf, unknownMember, unknownSide } from "../model/find-room.ts";
import { decideBy } from "../model/handlers.ts";
import type { PrivateEntryCommand } from "../model/private-entries/commands.ts";
import { entryKey, type PrivateEntry } from "../model/private-entries/state.ts";
import type { Room } from "../model/rooms/state.ts";
import type { HarborRules } from "../model/rules.ts";
import type { RoomsPart } from "../model/state.ts";

type Doing<K extends PrivateEntryCommand["do"]> = Extract<PrivateEntryCommand, { do: K }>;

export const decidePrivateEntry = decideBy<PrivateEntryCommand, RoomsPart>({
  "private.set": write,
  "private.remove": remove,
  "private.drop-member": dropMember,
  "private.show": show,
});

function write(
  { state, rules }: RoomsContext,
  { player, args }: Doing<"private.set">,
): Decision<PlayerReply<"private.set">> {
  const found = roomOf(state, player);
  if ("refused" in found) return found;
  const { room } = found;
  const { key, value, to } = args;
  const before = entriesOf(state, room.id).get(entryKey(player, key));
  const size = bytesOf(JSON.stringify(value));
  const unfit = unknownReaders(room, to) ?? noPlace(state, rules, room, { player, key, size });
  if (unfit) return unfit;
  const from = before && !isSame(before.to, to) ? before.to : undefined;
  return accept([{ kind: "private.set", room: room.id, owner: player, key, value, size, to, ...(from && { from }) }], {
    reply: (after) => ({
      revision: after.privateEntries.byRoom.get(room.id)?.get(entryKey(player, key))?.revision ?? 0,
    }),
  });
}

function remove(
  { state }: RoomsContext,
  { player, args: { key } }: Doing<"private.remove">,
): Decision<PlayerReply<"private.remove">> {
  const found = roomOf(state, player);
  if ("refused" in found) return found;
  const room = found.room.id;
  const entry = entriesOf(state, room).get(entryKey(player, key));
  const entries = entry ? [addressOf(entry)] : [];
  return accept(entry ? [{ kind: "private.removed", room, entries }] : [], {
    reply: () => ({ removed: entry !== undefined }),
  });
}

function dropMember({ state }: RoomsContext, { room: id, player }: Doing<"private.drop-member">): Decision {
  const room = state.rooms.byId.get(id);
  if (room === undefined || room.members.has(player)) return nothingToDo;
  const gone = [...entriesOf(state, id).values()].filter(
    ({ owner, to }) => owner === player || ("player" in to && to.player === player),
  );
  return gone.length === 0
    ? nothingToDo
    : accept([{ kind: "private.removed", room: id, entries: gone.map(addressOf) }]);
}

function show({ state }: RoomsContext, { room: id, players }: Doing<"private.show">): Decision {
  const room = state.rooms.byId.get(id);
  const here = players.filter((player) => room?.members.has(player) || room?.spectators.has(player));
  return here.length === 0 ? nothingToDo : accept([{ kind: "private.shown", room: id, players: here }]);
}

const NONE: ReadonlyMap<string, PrivateEntry> = new Map();

const entriesOf = ({ privateEntries }: RoomsPart, room: RoomId): ReadonlyMap<string, PrivateEntry> =>
  privateEntries.byRoom.get(room) ?? NONE;

const addressOf = ({ owner, key, to }: PrivateEntry) => ({ owner, key, to });

const isSame = (one: PrivateReaders, other: PrivateReaders): boolean =>
  "player" in one ? "player" in other && one.player === other.player : "side" in other && one.side === other.side;

function unknownReaders(room: Room, to: PrivateReaders): Refusal | undefined {
  if ("side" in to) return unknownSide(room, to.side);
  return room.members.has(to.player) ? undefined : unknownMember(room, to.player);
}

interface Writing {
  readonly player: PlayerId;
  readonly key: BoardKey;
  readonly size: number;
}

function noPlace(
  state: RoomsPart,
  { roomKinds }: HarborRules,
  room: Room,
  { player, key, size }: Writing,
): Refusal | undefined {
  const limits = roomKinds.get(room.kind)?.privateEntries ?? { perMember: 0, bytes: 0, totalBytes: 0 };
  const { perMember, bytes, totalBytes } = limits;
  const full = (detail: string) => refuse("board-full", detail);
  if (perMember === 0) return full(`Rooms of kind ${room.kind} take no private entries.`);
  if (size > bytes) return full(`The value has ${size} bytes of JSON; a private entry takes at most ${bytes}.`);
  const others = [...entriesOf(state, room.id)].filter(([other]) => other !== entryKey(player, key));
  const own = others.filter(([, { owner }]) => owner === player).length;
  if (own >= perMember) return full(`You have ${own} private entries, the most there may be; remove one first.`);
  const total = others.reduce((sum, [, entry]) => sum + entry.size, size);
  if (total > totalBytes)
    return full(`The private entries of the room would be more than ${totalBytes} bytes; remove one first.`);
  return undefined;
}
