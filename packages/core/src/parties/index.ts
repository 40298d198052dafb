import type { Exported } from "../model/capability.ts";
import type { DueKind } from "../model/due.ts";
import type { PartyCommand } from "../model/parties/commands.ts";
import type { PartyEvent } from "../model/parties/events.ts";
import { newPartiesState } from "../model/parties/state.ts";
import type { RoomsPart } from "../model/state.ts";
import { applyParty, markPartiesAway } from "./apply.ts";
import { decideParty } from "./decide.ts";
import { describeParty } from "./describe.ts";
import { partyViolations } from "./invariants.ts";
import { partyInvitations, partyOfPlayer, partyPushes, partyView } from "./view.ts";

/** Players who stay together through rooms, queues and matches. */
export const parties = {
  names: ["party"],
  newState: () => ({ parties: newPartiesState() }),
  decide: decideParty,
  apply: applyParty,
  deliveries: partyPushes,
  describe: describeParty,
  due: {
    "party-leader": (party) => ({ do: "party.check-leader", party }),
    "party-invitation": (party) => ({ do: "party.invitations-late", party }),
  },
  invariants: partyViolations,
  waits: partiesWaiting,
  /** What changes with an event of another capability. */
  also: { markAllAway: markPartiesAway },
  views: { party: partyView, ofPlayer: partyOfPlayer, invitations: partyInvitations },
} satisfies Exported<PartyCommand, PartyEvent>;

/** What of the parties waits for a time. */
function partiesWaiting({ parties }: RoomsPart): [kind: DueKind, subject: string][] {
  return [...parties.byId.values()]
    .filter(({ invitations }) => invitations.size > 0)
    .map(({ id }) => ["party-invitation", id]);
}
