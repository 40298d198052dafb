import type {
  ConfigName,
  InvitationEnd,
  PartyId,
  PartyLeft,
  PlayerId,
  Presence,
  ReservedFor,
  RoomId,
} from "@yellow-harbor/protocol";
import type { PartyInvitation, PartyMember, PartyPolicy } from "./state.ts";

export type PartyEvent =
  | {
      readonly kind: "party.opened";
      readonly party: PartyId;
      readonly code: string;
      readonly lobby: ConfigName;
      readonly policy: PartyPolicy;
      readonly leader: PartyMember;
    }
  | {
      readonly kind: "party.joined";
      readonly party: PartyId;
      readonly member: PartyMember;
      /** The invitation that it came by. */
      readonly invited?: ReservedFor;
    }
  | {
      readonly kind: "party.left";
      readonly party: PartyId;
      readonly player: PlayerId;
      readonly name: string;
      readonly cause: PartyLeft;
      readonly why?: string;
      /** Who leads from now on, when the leader left and somebody remains. */
      readonly leader?: PlayerId;
    }
  | {
      readonly kind: "party.led";
      readonly party: PartyId;
      readonly leader: PlayerId;
      readonly cause: "given" | "lost";
    }
  | ({ readonly kind: "party.invited"; readonly party: PartyId } & PartyInvitation)
  | {
      readonly kind: "party.invitation-ended";
      readonly party: PartyId;
      readonly for: ReservedFor;
      readonly cause: Exclude<InvitationEnd, "joined">;
    }
  /** The leader has gone into a room, and these go along. */
  | {
      readonly kind: "party.called";
      readonly party: PartyId;
      readonly room: RoomId;
      readonly players: readonly PlayerId[];
    }
  /** What it says of itself, or what has become of it elsewhere. */
  | {
      readonly kind: "party.member-changed";
      readonly party: PartyId;
      readonly player: PlayerId;
      readonly follows?: boolean;
      readonly brings?: PartyMember["brings"];
      readonly presence?: Presence;
      readonly room?: PartyMember["room"];
    };
