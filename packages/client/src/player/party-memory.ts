import type { OwnUpdate, PartyInvitationView, PartyView, Welcome } from "@yellow-harbor/protocol";
import type { Emitter } from "./emitter.ts";
import type { PlayerEvents } from "./player-client-events.ts";

/** What a player knows of its party, and of the parties that invite it. */
export class PartyMemory {
  readonly #events: Emitter<PlayerEvents>;
  party: PartyView | undefined;
  /** The first to end first. */
  invitations: readonly PartyInvitationView[] = [];

  constructor(events: Emitter<PlayerEvents>) {
    this.#events = events;
  }

  welcomed({ party, partyInvitations = [] }: Welcome): void {
    const had = this.party;
    this.party = party;
    this.invitations = inOrder(partyInvitations);
    if (had || party) this.#events.emit("party", { party });
  }

  /** A reply of a request about parties has the party's state. */
  replied(reply: object): void {
    if (!("party" in reply)) return;
    this.party = reply.party as PartyView;
    this.#events.emit("party", { party: this.party });
  }

  hear(update: OwnUpdate): void {
    switch (update.kind) {
      case "party-changed": {
        const { kind: _, ...told } = update;
        this.party = told.party;
        return this.#events.emit("party", told);
      }
      case "out-of-party":
        this.party = undefined;
        this.#events.emit("party", { party: undefined });
        return this.#events.emit("outOfParty", update);
      case "party-invited": {
        const { invitation } = update;
        const others = this.invitations.filter(({ party }) => party !== invitation.party);
        this.invitations = inOrder([...others, invitation]);
        return this.#events.emit("partyInvited", invitation);
      }
      case "party-invitation-ended":
        this.invitations = this.invitations.filter(({ party }) => party !== update.party);
        return this.#events.emit("partyInvitationEnded", update);
    }
  }
}

const inOrder = (invitations: readonly PartyInvitationView[]): PartyInvitationView[] =>
  [...invitations].sort((a, b) => a.untilMs - b.untilMs);
