import type { BoardEntryView, BoardKey, PlayerArgs, PlayerId, Revised, RoomKindRules } from "@yellow-harbor/protocol";
import { bytesOf } from "../../model/bytes-of.ts";
import { accept, type Decision, type Refusal, type RoomsContext, refuse } from "../../model/decision.ts";
import { revisionReply, roomOf } from "../../model/find-room.ts";
import type { BoardEntry, Room } from "../../model/rooms/state.ts";

export function writeEntry(
  { state, rules }: RoomsContext,
  player: PlayerId,
  args: PlayerArgs<"board.set">,
): Decision<Revised> {
  const found = roomOf(state, player);
  if ("refused" in found) return found;
  const { room } = found;
  const { key, value, ifRevision } = args;
  const before = room.board.get(key);
  const size = bytesOf(JSON.stringify(value));
  const unfit =
    notTheirs(room, key, player) ??
    stale(key, before, ifRevision) ??
    noPlace(room, key, size, rules.roomKinds.get(room.kind)?.board);
  if (unfit) return unfit;
  const onLeave = args.onLeave ?? before?.onLeave ?? "remove";
  // The owner stays the owner, also when the host writes.
  const owner = before?.owner ?? player;
  return accept([{ kind: "room.board-set", room: room.id, key, value, size, owner, onLeave, by: player }], {
    reply: revisionReply(room.id),
  });
}

export function eraseEntry(
  { state }: RoomsContext,
  player: PlayerId,
  { key, ifRevision }: PlayerArgs<"board.remove">,
): Decision<Revised> {
  const found = roomOf(state, player);
  if ("refused" in found) return found;
  const { room } = found;
  const before = room.board.get(key);
  if (before === undefined) return refuse("board-key-unknown", `The board of room ${room.code} has no entry ${key}.`);
  const unfit = notTheirs(room, key, player) ?? stale(key, before, ifRevision);
  if (unfit) return unfit;
  return accept([{ kind: "room.board-removed", room: room.id, key, by: player }], { reply: revisionReply(room.id) });
}

/** What becomes of a leaver's entries: those that go with it, those that pass to `heir`. What stays keeps its owner. */
export function inheritance(
  room: Room,
  leaver: PlayerId,
  heir: PlayerId | undefined,
): { gone: BoardKey[]; passed: BoardKey[] } {
  const theirs = [...room.board].filter(([, entry]) => entry.owner === leaver);
  const keys = (fits: (entry: BoardEntry) => boolean) => theirs.filter(([, entry]) => fits(entry)).map(([key]) => key);
  return {
    gone: keys(({ onLeave }) => onLeave === "remove"),
    passed: heir === undefined ? [] : keys(({ onLeave }) => onLeave === "host"),
  };
}

export const entryView = ({ value, owner, revision, onLeave }: BoardEntry): BoardEntryView => ({
  box: [value],
  owner,
  revision,
  onLeave,
});

function notTheirs(room: Room, key: BoardKey, player: PlayerId): Refusal | undefined {
  const owner = room.board.get(key)?.owner;
  if (owner === undefined || owner === player || room.host === player) return undefined;
  const name = room.members.get(owner)?.name ?? "a member who has left";
  return refuse("board-not-owner", `The entry ${key} belongs to ${name}; only its owner and the host may change it.`);
}

function stale(key: BoardKey, before: BoardEntry | undefined, ifRevision: number | undefined): Refusal | undefined {
  const revision = before?.revision ?? 0;
  if (ifRevision === undefined || ifRevision === revision) return undefined;
  const now = revision === 0 ? "is not there" : `is at revision ${revision}`;
  return refuse("board-stale", `The entry ${key} ${now}, not at ${ifRevision}; look again, then write.`);
}

function noPlace(
  room: Room,
  key: BoardKey,
  size: number,
  limits: RoomKindRules["board"] | undefined,
): Refusal | undefined {
  const { entries, bytes, totalBytes } = limits ?? { entries: 64, bytes: 2_048, totalBytes: 16_384 };
  const others = [...room.board].filter(([other]) => other !== key);
  const total = others.reduce((sum, [, entry]) => sum + entry.size, size);
  const full = (detail: string) => refuse("board-full", detail);
  if (size > bytes) return full(`The value has ${size} bytes of JSON; an entry takes at most ${bytes}.`);
  if (others.length >= entries)
    return full(`The board has ${others.length} entries, the most it takes; erase one first.`);
  if (total > totalBytes)
    return full(`The board would hold ${total} bytes; it takes at most ${totalBytes}. Erase something first.`);
  return undefined;
}
