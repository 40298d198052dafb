import type { Patch, RoomUpdate } from "@yellow-harbor/protocol";
import { assertNever } from "../../model/decision.ts";
import { only, recordOf } from "../../model/record.ts";
import type { Member, Room } from "../../model/rooms/state.ts";
import type { MemberEvent } from "../apply-member.ts";
import { memberView } from "../view.ts";
import type { UpdateAndPatch } from "./update-patch.ts";

/** What members are told about one of them, without what the room still needs. */
export function memberUpdate(room: Room, event: MemberEvent): UpdateAndPatch {
  const clears = "unready" in event && event.unready === true;
  const told = (update: RoomUpdate, changes: Record<string, Patch | null>, more: Patch = {}): UpdateAndPatch => {
    const cleared = clears ? membersPatch(room, () => ({ ready: false })) : recordOf<Patch>([]);
    const members = recordOf<unknown>(Object.entries(cleared));
    for (const [id, change] of Object.entries(changes)) {
      members[id] = change === null ? null : { ...(cleared[id] as Patch | undefined), ...change };
    }
    return { update, patch: { members, ...more } };
  };
  switch (event.kind) {
    case "room.joined": {
      const { player, name, host } = event;
      const changes = only(player, viewOf(room, player));
      return told({ kind: "member-joined", player, name }, changes, host === undefined ? {} : { host });
    }
    case "room.departed":
      return departed(room, event, told);
    case "room.member-away": {
      const { player, untilMs } = event;
      return told({ kind: "member-away", player }, only(player, { presence: "away", awayUntilMs: untilMs }));
    }
    case "room.member-back": {
      const { player } = event;
      return told(
        { kind: "member-back", player },
        only(player, { presence: "here", awayUntilMs: null, attention: null }),
      );
    }
    case "room.background-set": {
      const { player, attention } = event;
      return told({ kind: "attention-changed", player }, only(player, { attention }));
    }
    case "room.voted": {
      const { player, level } = event;
      return told({ kind: "voted", player, level }, only(player, { vote: level }));
    }
    case "room.member-described": {
      const { player, attributes, gone = [] } = event;
      const left = Object.fromEntries(gone.map((name) => [name, null]));
      const patch = Object.keys(attributes).length === 0 ? null : { ...left, ...attributes };
      return told({ kind: "attributes-changed", player }, only(player, { attributes: patch }));
    }
    case "room.peers-measured": {
      const { player, peersMs, gone = [] } = event;
      const left = Object.fromEntries(gone.map((id) => [id, null]));
      const patch = Object.keys(peersMs).length === 0 ? null : { ...left, ...peersMs };
      return told({ kind: "peers-measured", player }, only(player, { peersMs: patch }));
    }
    case "room.measured":
      return told({ kind: "latency-measured", player: event.player }, only(event.player, { ...event.latency }));
    case "room.ready-set": {
      const { player, ready } = event;
      return told({ kind: "ready-changed", player, ready }, only(player, { ready }));
    }
    case "room.moved":
      return told({ kind: "member-moved", player: event.player }, only(event.player, viewOf(room, event.player)));
    case "room.swap-offered": {
      const { player, with: other } = event;
      return told(
        { kind: "swap-offered", player, ...(other !== null && { with: other }) },
        only(player, { swapWith: other }),
      );
    }
    case "room.swapped": {
      const changes = recordOf(event.players.map((id) => [id, { swapWith: null, ...viewOf(room, id) }]));
      return told({ kind: "members-swapped", players: [...event.players] }, changes);
    }
    case "room.balanced": {
      const changes = recordOf(event.moved.map(({ player, side }) => [player, { side }]));
      const moved = event.moved.map(({ player }) => player);
      return told({ kind: "sides-balanced", by: event.by, moved }, changes);
    }
    default:
      return assertNever(event);
  }
}

type Telling = (update: RoomUpdate, changes: Record<string, Patch | null>, more?: Patch) => UpdateAndPatch;

function departed(room: Room, event: Extract<MemberEvent, { kind: "room.departed" }>, told: Telling): UpdateAndPatch {
  const { player, reason, why, host } = event;
  const update: RoomUpdate = { kind: "member-left", player, reason, ...(why && { why }), ...(host && { host }) };
  const powers = host !== undefined ? { host } : room.host === null ? { host: null } : {};
  const voided = recordOf<Patch | null>((event.voided ?? []).map((id) => [id, { swapWith: null }]));
  voided[player] = null;
  return told(update, voided, powers);
}

/** The same kind of change for every member. */
export function membersPatch(room: Room, change: (member: Member) => Patch): Record<string, Patch> {
  return recordOf([...room.members.values()].map((member) => [member.id, change(member)]));
}

function viewOf(room: Room, player: string): Patch {
  const member = room.members.get(player);
  return member === undefined ? {} : { ...memberView(member) };
}
