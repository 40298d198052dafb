import { z } from "zod";
import { AccountId } from "./accounts.ts";
import { AtMs } from "./basics.ts";
import { ConfigName, PlayerId, RoomId } from "./ids.ts";
import { InvitationView } from "./invitations.ts";
import { PartyInvitationView, PartyView } from "./parties.ts";
import { playerRequests } from "./player-requests.ts";
import { PrivateEntryView } from "./private-entries.ts";
import { Problem } from "./problems.ts";
import { TicketView } from "./queues.ts";
import { FriendsUpdate } from "./relations.ts";
import { DirectoryUpdate } from "./requests/directory.ts";
import { BuildString, DisplayName } from "./text.ts";
import { LobbyUpdate, Missed, OwnUpdate, Patch, RoomUpdate } from "./update.ts";
import { BoardingPass, LobbyView, RoomView } from "./views.ts";

const RequestId = z.int().min(0).max(0xffff_ffff).meta({ description: "Chosen by the client, repeated in the reply." });

/** What a guest keeps to be the same player next time. It is a secret of the device, like a password. */
const DeviceKey = z
  .string()
  .regex(/^[A-Za-z0-9_-]{32,128}$/, "expected 32 to 128 random characters of A to Z, a to z, 0 to 9, _ and -")
  .meta({
    description:
      "Random key that a guest's device keeps: with the same key it is the same guest. It counts when there is no account token.",
  });

/** First frame of a connection: who one is, as a guest, by account, or with the token of an earlier welcome. */
export const Hello = z
  .strictObject({
    frame: z.literal("hello"),
    wire: z.int().meta({ description: "Wire version the client speaks." }),
    build: BuildString,
    name: DisplayName.optional().meta({
      description: "Name to play under; needed unless resume is given, or the account token has one.",
    }),
    resume: z.string().max(4096).optional().meta({ description: "Token of the newest welcome." }),
    account: z.string().max(8192).optional().meta({
      description:
        "Account token (JWT, RFC 7519) of the game's own back end. With resume: a guest becomes that account and keeps its room.",
    }),
    device: DeviceKey.optional(),
    have: z
      .strictObject({ scope: z.enum(["lobby", "room"]), id: z.string().max(64), revision: z.int().nonnegative() })
      .optional()
      .meta({ description: "The state one still holds: the service sends the updates since, when it has them all." }),
    heard: z.int().nonnegative().optional().meta({
      description: "With resume: the revision of the last update of scope you, or of the last welcome, that was heard.",
    }),
    waits: z.boolean().optional().meta({
      description:
        "Whether one waits in line while the harbor is full, and is told with `waiting`, instead of being refused.",
    }),
    waited: z.string().max(200).optional().meta({
      description: "With waits: the token of the last `waiting`, to have one's place in the line again.",
    }),
    lobby: ConfigName.optional().meta({
      description: "Lobby to be in; the first of the configuration when absent.",
    }),
  })
  .refine(({ name, resume, account }) => name !== undefined || resume !== undefined || account !== undefined, {
    message: "expected a name, an account token, or a resume token of an earlier welcome",
    path: ["name"],
  })
  .meta({ id: "Hello" });
export type Hello = z.output<typeof Hello>;

const ClockMs = z.number().min(0).max(Number.MAX_SAFE_INTEGER);

/** Says that one is still there, and asks for an echo of one's own clock; with the round trip the last echo gave. */
export const Heartbeat = z
  .strictObject({
    frame: z.literal("heartbeat"),
    sentMs: ClockMs.meta({ description: "The client's own clock; comes back in the echo as it is." }),
    roundTripMs: z
      .number()
      .min(0)
      .max(60_000)
      .optional()
      .meta({ description: "From the last heartbeat to its echo, by the client's clock." }),
  })
  .meta({ id: "Heartbeat" });
export type Heartbeat = z.output<typeof Heartbeat>;

/** Envelope of every request; its args are parsed against the row of {@link playerRequests} that `ask` names. */
export const RequestEnvelope = z
  .strictObject({
    frame: z.literal("request"),
    id: RequestId,
    ask: z.string().max(64),
    args: z.unknown().optional(),
  })
  .meta({ id: "Request" });
export type RequestEnvelope = z.output<typeof RequestEnvelope>;

export const Welcome = z
  .object({
    frame: z.literal("welcome"),
    wire: z.int(),
    harbor: ConfigName,
    player: z.object({
      id: PlayerId,
      name: z.string(),
      account: AccountId.optional().meta({ description: "Absent for a guest who keeps no device key." }),
      revision: z.int().meta({ description: "How often something has befallen the player alone." }),
    }),
    resumed: z.boolean().meta({ description: "true when the player of the token was taken up again." }),
    resume: z.string().meta({ description: "Token for taking this player up again after a lost connection." }),
    heartbeatEveryMs: z.int().meta({ description: "How often the client is to send a heartbeat." }),
    silenceMs: z.int().meta({ description: "After so long without a frame either side counts the other as lost." }),
    continues: z.boolean().optional().meta({
      description: "true: the state the hello named still counts; the updates since follow. Then none is here.",
    }),
    lobby: LobbyView.optional().meta({ description: "Complete state of the lobby, when the player is in one." }),
    room: RoomView.optional().meta({ description: "Complete state of the room, when the player is in one." }),
    ticket: TicketView.optional().meta({ description: "The search the player is in, or is asked to join." }),
    invitations: z
      .array(InvitationView)
      .optional()
      .meta({ description: "Places that rooms keep for the player; absent when there are none." }),
    party: PartyView.optional().meta({ description: "The party the player is in." }),
    partyInvitations: z
      .array(PartyInvitationView)
      .optional()
      .meta({ description: "Invitations into parties; absent when there are none." }),
    privateEntries: z
      .array(PrivateEntryView)
      .optional()
      .meta({ description: "Private entries of the room that one may see; absent when there are none." }),
    missed: z
      .array(Missed)
      .optional()
      .meta({ description: "What befell the player alone and was not heard by it, the oldest first." }),
    pass: BoardingPass.optional().meta({
      description: "While the room's travel is boarding and the berth not yet taken.",
    }),
  })
  .meta({ id: "Welcome" });
export type Welcome = z.infer<typeof Welcome>;

/** The harbor is full, and one waits for a place. The welcome follows when there is one. */
export const Waiting = z
  .object({
    frame: z.literal("waiting"),
    position: z.int().meta({ description: "1 for the next one." }),
    of: z.int().meta({ description: "How many wait." }),
    sinceMs: AtMs.meta({ description: "Since when one waits." }),
    estimateMs: z.int().optional().meta({
      description: "About how long it will take, by the pace of late; absent while that says too little.",
    }),
    token: z.string().meta({ description: "For `waited` of a hello, after a lost connection." }),
  })
  .meta({ id: "Waiting", description: "A place in the line before a full harbor, told again every five seconds." });
export type Waiting = z.infer<typeof Waiting>;

export const Reply = z
  .union([
    z.object({ frame: z.literal("reply"), id: RequestId, reply: z.record(z.string(), z.unknown()) }),
    z.object({ frame: z.literal("reply"), id: RequestId, problem: Problem }),
  ])
  .meta({ id: "Reply", description: "Answer to the request of the same id." });
export type Reply = z.infer<typeof Reply>;

const revision = z.int().meta({ description: "Revision of the state after the patch: one more than before." });

export const Update = z
  .discriminatedUnion("scope", [
    z.object({
      frame: z.literal("update"),
      scope: z.literal("lobby"),
      id: ConfigName,
      revision,
      event: LobbyUpdate,
      patch: Patch,
    }),
    z.object({
      frame: z.literal("update"),
      scope: z.literal("room"),
      id: RoomId,
      revision,
      event: RoomUpdate,
      patch: Patch,
    }),
    z.object({
      frame: z.literal("update"),
      scope: z.literal("you"),
      revision: z.int().optional().meta({
        description: "How often something has befallen the player alone; absent with a boarding pass.",
      }),
      event: OwnUpdate,
    }),
  ])
  .meta({ id: "Update", description: "Something happened." });
export type Update = z.infer<typeof Update>;

/** A message that a member has passed to the room. It is not state: whoever was not there has missed it. */
export const Relayed = z
  .object({ frame: z.literal("relayed"), room: RoomId, from: PlayerId, body: z.unknown() })
  .meta({ id: "Relayed" });
export type Relayed = z.infer<typeof Relayed>;

/** Something that a member has passed to this one alone, for connecting directly. It is not state. */
export const Signal = z
  .object({ frame: z.literal("signal"), room: RoomId, from: PlayerId, body: z.unknown() })
  .meta({ id: "Signal" });
export type Signal = z.infer<typeof Signal>;

/** The echo of a heartbeat. */
export const Echo = z
  .object({
    frame: z.literal("echo"),
    sentMs: z.number(),
    atMs: z.int().meta({ description: "The service's clock, in milliseconds since 1970." }),
  })
  .meta({ id: "Echo" });
export type Echo = z.infer<typeof Echo>;

/** What a player has said in the lobby. It is not state: whoever was not there has missed it. */
export const Chat = z
  .object({ frame: z.literal("chat"), lobby: ConfigName, from: PlayerId, name: z.string(), text: z.string() })
  .meta({ id: "Chat" });
export type Chat = z.infer<typeof Chat>;

/** What a player has said to this one alone. It is not state: whoever was not there has missed it. */
export const DirectMessage = z
  .object({ frame: z.literal("message"), from: PlayerId, name: z.string(), text: z.string() })
  .meta({ id: "DirectMessage" });
export type DirectMessage = z.infer<typeof DirectMessage>;

/** What an operator has to say. */
export const Notice = z
  .object({ frame: z.literal("notice"), to: z.enum(["player", "room", "lobby", "harbor"]), text: z.string() })
  .meta({ id: "Notice" });
export type Notice = z.infer<typeof Notice>;

/** A protocol error of the client that belongs to no request. The connection stays open until there are too many of them. */
export const Refused = z.object({ frame: z.literal("refused"), problem: Problem }).meta({ id: "Refused" });
export type Refused = z.infer<typeof Refused>;

/** Last frame before the service closes the socket, with the reason. */
export const Closing = z.object({ frame: z.literal("closing"), problem: Problem }).meta({ id: "Closing" });
export type Closing = z.infer<typeof Closing>;

export const ServiceFrame = z.union([
  Welcome,
  Reply,
  Update,
  Relayed,
  DirectoryUpdate,
  FriendsUpdate,
  Echo,
  Waiting,
  Signal,
  Chat,
  DirectMessage,
  Notice,
  Refused,
  Closing,
]);
export type ServiceFrame = z.infer<typeof ServiceFrame>;
