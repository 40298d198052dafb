import { assertNever } from "../model/decision.ts";
import { ownerOf } from "../model/find-player.ts";
import type { PartyEvent } from "../model/parties/events.ts";
import type { RoomsPart } from "../model/state.ts";

/** The event in a sentence, from the state after it. */
export function describeParty(state: RoomsPart, event: PartyEvent): string | undefined {
  const party = state.parties.byId.get(event.party);
  const name = (id: string) => party?.members.get(id)?.name ?? state.players.byId.get(id)?.name ?? id;
  const whom = "for" in event ? (ownerOf(state, event.for)?.name ?? "an account that is not here") : "";
  switch (event.kind) {
    case "party.opened":
      return `${event.leader.name} founds party ${event.code}.`;
    case "party.joined":
      return `${event.member.name} joins the party of ${name(party?.leader ?? "")}.`;
    case "party.left": {
      const how = {
        left: "leaves the party",
        kicked: `is removed from the party${event.why === undefined ? "" : `: ${event.why}`}`,
        gone: "is gone, and so out of the party",
      }[event.cause];
      const then = party === undefined ? " Nobody is in it any more." : "";
      const next = event.leader === undefined ? "" : ` ${name(event.leader)} leads it now.`;
      return `${event.name} ${how}${how.endsWith(".") ? "" : "."}${next}${then}`;
    }
    case "party.led":
      return event.cause === "given"
        ? `${name(event.leader)} is given the lead of the party.`
        : `${name(event.leader)} leads the party, since its leader is away.`;
    case "party.invited":
      return `${event.by.name} invites ${whom} into the party.`;
    case "party.invitation-ended":
      return `The invitation of ${whom} into the party has ended: ${event.cause}.`;
    case "party.called":
      return `${name(party?.leader ?? "")} brings ${event.players.map(name).join(" and ")} along.`;
    case "party.member-changed": {
      if (event.follows === undefined) return undefined;
      return `${name(event.player)} ${event.follows ? "goes along with" : "stays behind"} the party's leader.`;
    }
    default:
      return assertNever(event);
  }
}
