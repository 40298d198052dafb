import type { PlayerArgs, PlayerAttributes, PlayerId, Revised } from "@yellow-harbor/protocol";
import { accept, type Decision, nothingToDo, type RoomsContext } from "../../model/decision.ts";
import { revisionReply, roomOf } from "../../model/find-room.ts";
import { attributesOf } from "../../model/players/attributes.ts";
import { patchAttributes } from "../../model/players/patch-attributes.ts";
import type { RoomCommand } from "../../model/rooms/commands.ts";
import type { RoomEvent } from "../../model/rooms/events.ts";
import type { Member, Room } from "../../model/rooms/state.ts";

/** What a member brings into this room alone. */
export function setOwnAttributes(
  context: RoomsContext,
  player: PlayerId,
  { attributes: patch }: PlayerArgs<"room.set-attributes">,
): Decision<Revised> {
  const found = roomOf(context.state, player);
  if ("refused" in found) return found;
  const { room, member } = found;
  const patched = patchAttributes(context.rules.players.attributes, member.own ?? {}, patch);
  if ("refused" in patched) return patched;
  const own = patched.attributes;
  const isSame = JSON.stringify(own) === JSON.stringify(member.own ?? {});
  const [described = { kind: "room.member-described", room: room.id, player, attributes: member.attributes ?? {} }] =
    describedEvents(context, room, member, own);
  return accept(isSame ? [] : [{ ...described, own }], { reply: revisionReply(room.id) });
}

/** Shows the others what a member brings now. */
export function describeMember(
  context: RoomsContext,
  { room: id, player: who }: Extract<RoomCommand, { do: "room.describe-member" }>,
): Decision {
  const room = context.state.rooms.byId.get(id);
  const member = room?.members.get(who);
  if (room === undefined || member === undefined) return nothingToDo;
  return accept(describedEvents(context, room, member, member.own));
}

type Described = Extract<RoomEvent, { kind: "room.member-described" }>;

/** None when it brings what it brought before. */
function describedEvents(
  { state, rules }: RoomsContext,
  room: Room,
  member: Member,
  own: PlayerAttributes = {},
): Described[] {
  const player = state.players.byId.get(member.id);
  if (player === undefined) return [];
  const { identity, attributes: everywhere = {} } = player;
  const attributes = attributesOf(rules.players.attributes, { identity, attributes: { ...everywhere, ...own } });
  const before = member.attributes ?? {};
  if (JSON.stringify(attributes) === JSON.stringify(before)) return [];
  const gone = Object.keys(before).filter((name) => !Object.hasOwn(attributes, name));
  return [
    {
      kind: "room.member-described",
      room: room.id,
      player: member.id,
      attributes,
      ...(gone.length > 0 && { gone }),
    },
  ];
}

/** How far others are from a member, as its game has measured it. Of who is no member nothing is kept. */
export function tellLatencies(
  { state }: RoomsContext,
  player: PlayerId,
  { latencyMs }: PlayerArgs<"room.tell-latencies">,
): Decision<Revised> {
  const found = roomOf(state, player);
  if ("refused" in found) return found;
  const { room, member } = found;
  const told = Object.entries(latencyMs).filter(([id]) => id !== player && room.members.has(id));
  const peersMs = Object.fromEntries(told.map(([id, ms]) => [id, Math.round(ms)]));
  const before = member.peersMs ?? {};
  const isSame = JSON.stringify(peersMs) === JSON.stringify(before);
  const gone = Object.keys(before).filter((id) => !Object.hasOwn(peersMs, id));
  const event: RoomEvent = {
    kind: "room.peers-measured",
    room: room.id,
    player,
    peersMs,
    ...(gone.length > 0 && { gone }),
  };
  return accept(isSame ? [] : [event], { reply: revisionReply(room.id) });
}
