import type { InvitationView, OwnUpdate, TicketView, Welcome } from "@yellow-harbor/protocol";
import type { Emitter } from "./emitter.ts";
import { InvitationMemory } from "./invitation-memory.ts";
import { PartyMemory } from "./party-memory.ts";
import type { PlayerEvents } from "./player-client-events.ts";
import { PrivateMemory } from "./private-memory.ts";

/** What concerns a player alone: its search, its party, what invites it, and what of its room is for it alone. */
export class OwnMemory {
  readonly #events: Emitter<PlayerEvents>;
  readonly #invitations: InvitationMemory;
  readonly parties: PartyMemory;
  readonly privateEntries: PrivateMemory;
  ticket: TicketView | undefined;

  constructor(events: Emitter<PlayerEvents>) {
    this.#events = events;
    this.#invitations = new InvitationMemory(events);
    this.parties = new PartyMemory(events);
    this.privateEntries = new PrivateMemory(events);
  }

  get invitations(): readonly InvitationView[] {
    return this.#invitations.all;
  }

  welcomed(welcome: Welcome): void {
    this.ticket = welcome.ticket;
    this.#invitations.welcomed(welcome.invitations);
    this.parties.welcomed(welcome);
    this.privateEntries.welcomed(welcome);
  }

  hear(update: OwnUpdate): void {
    if (update.kind === "ticket-changed") {
      this.ticket = update.ticket;
      this.#events.emit("ticket", update.ticket);
    }
    if (update.kind === "ticket-ended") {
      this.ticket = undefined;
      this.#events.emit("ticketEnded", update);
    }
    this.#invitations.hear(update);
    this.parties.hear(update);
    this.privateEntries.hear(update);
  }
}
