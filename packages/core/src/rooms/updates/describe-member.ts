import { assertNever } from "../../model/decision.ts";
import { attributesText } from "../../model/players/attributes.ts";
import type { Room } from "../../model/rooms/state.ts";
import type { MemberEvent } from "../apply-member.ts";
import { missingToStart } from "../start/explain.ts";

/** What happened to a member, in a sentence, from the state after it. */
export function describeMember(room: Room | undefined, code: string, event: MemberEvent): string | undefined {
  const name = (id: string) => room?.members.get(id)?.name ?? id;
  const count = `${room?.members.size} of ${room?.capacity}`;
  switch (event.kind) {
    case "room.joined":
      return `${event.name} joins room ${code} at place ${event.place} (${count}).`;
    case "room.departed":
      return `${departed(event, code)} (${count})${event.why ? `: ${event.why}` : ""}${event.host ? `; ${name(event.host)} is host now` : ""}.`;
    case "room.member-away":
      return `${name(event.player)} is away from room ${code}; place ${room?.members.get(event.player)?.place} is kept.`;
    case "room.member-back":
      return `${name(event.player)} is back in room ${code}.`;
    case "room.moved":
      return `${name(event.player)} goes to place ${event.place}${event.side ? ` of ${event.side}` : ""} in room ${code}.`;
    case "room.swap-offered":
      return event.with === null
        ? `${name(event.player)} takes an offer to swap back in room ${code}.`
        : `${name(event.player)} offers ${name(event.with)} to swap in room ${code}.`;
    case "room.swapped":
      return `${event.players.map(name).join(" and ")} have swapped in room ${code}.`;
    case "room.balanced":
      return `${name(event.by)} balances the sides of room ${code}: ${event.moved.map((one) => `${name(one.player)} to ${one.side}`).join(", ")}.`;
    case "room.member-described":
      return `${name(event.player)} brings ${attributesText(event.attributes, "nothing in particular")} into room ${code}.`;
    case "room.peers-measured":
      return `${name(event.player)} tells how far ${Object.keys(event.peersMs).length} of the others are from it in room ${code}.`;
    case "room.measured":
      return undefined;
    case "room.background-set": {
      const how = { background: "is in the background", silent: "has fallen silent" };
      return `The game of ${name(event.player)} ${event.attention === null ? "is in front again" : how[event.attention]}.`;
    }
    case "room.voted":
      return `${name(event.player)} votes for ${event.level} in room ${code}${event.leads ? `, which leads now` : ""}.`;
    case "room.ready-set": {
      const missing = room === undefined ? [] : missingToStart(room).map((row) => row.text);
      const rest = missing.length === 0 ? "everything is there" : missing.join("; ");
      return `${name(event.player)} is ${event.ready ? "ready" : "not ready"} in room ${code}: ${rest}.`;
    }
    default:
      return assertNever(event);
  }
}

type Of<K extends MemberEvent["kind"]> = Extract<MemberEvent, { kind: K }>;

function departed({ name, reason, by }: Of<"room.departed">, code: string): string {
  return {
    left: `${name} leaves room ${code}`,
    moved: `${name} leaves room ${code} for another`,
    lost: `${name} is gone from room ${code}`,
    idle: `${name} has done nothing for too long in room ${code}`,
    late: `${name} came too late to travel with room ${code}`,
    kicked: `${name} was kicked from room ${code} by the ${by}`,
    closed: `${name} has to leave room ${code}`,
  }[reason];
}
