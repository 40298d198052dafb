import type { InvitationView, OwnUpdate } from "@yellow-harbor/protocol";
import type { Emitter } from "./emitter.ts";
import type { PlayerEvents } from "./player-client-events.ts";

/** The rooms that keep a place for a player, the first to end first. */
export class InvitationMemory {
  readonly #events: Emitter<PlayerEvents>;
  all: readonly InvitationView[] = [];

  constructor(events: Emitter<PlayerEvents>) {
    this.#events = events;
  }

  welcomed(invitations: readonly InvitationView[] = []): void {
    this.all = inOrder(invitations);
  }

  hear(update: OwnUpdate): void {
    if (update.kind === "invited") {
      const { invitation } = update;
      this.all = inOrder([...this.all.filter(({ room }) => room !== invitation.room), invitation]);
      this.#events.emit("invited", invitation);
    }
    if (update.kind === "invitation-ended") {
      this.all = this.all.filter(({ room }) => room !== update.room);
      this.#events.emit("invitationEnded", update);
    }
  }
}

const inOrder = (invitations: readonly InvitationView[]): InvitationView[] =>
  [...invitations].sort((a, b) => a.untilMs - b.untilMs);
