import type {
  AccountId,
  Acknowledged,
  AnnounceReply,
  BanView,
  BoardReply,
  BuildView,
  InvitationView,
  LobbyView,
  Missed,
  OpenedRoom,
  PartyInvitationView,
  PartyView,
  PlayerAsk,
  PlayerId,
  PlayerReply,
  PollReply,
  PrivateEntryView,
  RelationsView,
  Revised,
  RoomView,
  TicketView,
} from "@yellow-harbor/protocol";
import type { Command } from "./command.ts";
import type { OwedPass } from "./pools/state.ts";
import type { Proposed } from "./queues/commands.ts";

/** The complete view of what a player is in: exactly one of lobby and room, and the pass it may still use. */
export interface WelcomeState {
  readonly player: {
    readonly id: PlayerId;
    readonly name: string;
    readonly account?: AccountId;
    readonly revision: number;
  };
  /** Whether somebody was taken up who was known already. */
  readonly resumed: boolean;
  /** Number of the resume token that is given now. */
  readonly resumeNumber: number;
  readonly lobby?: LobbyView;
  readonly room?: RoomView;
  readonly pass?: OwedPass;
  readonly ticket?: TicketView;
  readonly missed?: readonly Missed[];
  readonly invitations?: readonly InvitationView[];
  readonly party?: PartyView;
  readonly partyInvitations?: readonly PartyInvitationView[];
  readonly privateEntries?: readonly PrivateEntryView[];
}

/** Said when there is nothing to say. */
export type Done = Record<string, never>;

/** What commands are answered with that no player asks. A capability that nothing else reads adds its own. */
export interface OtherReplies {
  "player.connect": WelcomeState;
  "player.resume": WelcomeState;
  "player.kick": Done;
  "player.move-to-lobby": Done;
  "friends.set": RelationsView;
  "ban.set": BanView;
  "ban.lift": BanView;
  "queue.propose": Proposed;
  "rating.set": Done;
  "rating.begin-season": Done;
  "room.dissolve": Revised;
  "room.operator-hand-over": Revised;
  "room.operator-kick": Revised;
  "room.operator-ban": Revised;
  "room.operator-unban": Revised;
  "room.operator-set-result": Revised;
  "room.operator-open": OpenedRoom;
  "room.operator-change": Revised;
  "room.operator-put": Revised;
  "room.operator-ready": Revised;
  "room.operator-start": Revised;
  "room.operator-end": Revised;
  "room.operator-reserve": Revised;
  "room.operator-cancel": Revised;
  "travel.operator-abort": Revised;
  "queue.operator-backfill": Revised;
  "queue.set-mode": Done;
  "plan.set-mode": Done;
  "plan.pin": Done;
  "plan.warm": Done;
  "plan.cool": Done;
  "pool.drain": Done;
  "machine.set-mode": Done;
  "machine.remove": Done;
  "build.add": { readonly build: BuildView };
  "build.change": { readonly build: BuildView };
  "instance.announce": Omit<AnnounceReply, "pollWaitMs">;
  "instance.acknowledge": PollReply;
  "instance.board": BoardReply;
  "instance.unboard": Acknowledged;
  "instance.report": Acknowledged;
  "instance.kick": Acknowledged;
  "instance.goodbye": Acknowledged;
}

/** What a command is answered with; nobody waits for an answer to those that are not here. */
export type ReplyTo<K extends Command["do"]> = K extends PlayerAsk
  ? PlayerReply<K>
  : K extends keyof OtherReplies
    ? OtherReplies[K]
    : unknown;
