import { z } from "zod";
import { ConfigName, PlayerId, RoomId } from "./ids.ts";
import { LobbyNews, OwnNews, Patch, RoomNews } from "./news.ts";
import { playerRequests } from "./player-requests.ts";
import { Problem } from "./problems.ts";
import { BuildString, DisplayName } from "./text.ts";
import { BoardingPass, LobbyView, RoomView } from "./views.ts";

const RequestId = z.int().min(0).max(0xffff_ffff).meta({ description: "Chosen by the client, repeated in the reply." });

/** First frame of a connection: who one is, as a guest or with the token of an earlier welcome. */
export const Hello = z
  .strictObject({
    frame: z.literal("hello"),
    wire: z.int().meta({ description: "Wire version the client speaks." }),
    build: BuildString,
    name: DisplayName.optional().meta({ description: "Guest name; needed unless resume is given." }),
    resume: z.string().max(4096).optional().meta({ description: "Token of an earlier welcome." }),
    lobby: ConfigName.optional().meta({
      description: "Lobby to stand in; the first of the configuration when absent.",
    }),
  })
  .refine((hello) => hello.name !== undefined || hello.resume !== undefined, {
    message: "expected a guest name, or a resume token of an earlier welcome",
    path: ["name"],
  })
  .meta({ id: "Hello" });
export type Hello = z.output<typeof Hello>;

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
    player: z.object({ id: PlayerId, name: z.string() }),
    resumed: z.boolean().meta({ description: "true when the player of the token was taken up again." }),
    resume: z.string().meta({ description: "Token for taking this player up again after a lost connection." }),
    lobby: LobbyView.optional().meta({ description: "Complete picture of the lobby, when the player stands in one." }),
    room: RoomView.optional().meta({ description: "Complete picture of the room, when the player is in one." }),
    pass: BoardingPass.optional().meta({
      description: "While the room's travel is boarding and the berth not yet taken.",
    }),
  })
  .meta({ id: "Welcome" });
export type Welcome = z.infer<typeof Welcome>;

export const Reply = z
  .union([
    z.object({ frame: z.literal("reply"), id: RequestId, reply: z.record(z.string(), z.unknown()) }),
    z.object({ frame: z.literal("reply"), id: RequestId, problem: Problem }),
  ])
  .meta({ id: "Reply", description: "Answer to the request of the same id." });
export type Reply = z.infer<typeof Reply>;

const revision = z.int().meta({ description: "Revision of the picture after the patch: one more than before." });

export const News = z
  .discriminatedUnion("scope", [
    z.object({
      frame: z.literal("news"),
      scope: z.literal("lobby"),
      id: ConfigName,
      revision,
      news: LobbyNews,
      patch: Patch,
    }),
    z.object({
      frame: z.literal("news"),
      scope: z.literal("room"),
      id: RoomId,
      revision,
      news: RoomNews,
      patch: Patch,
    }),
    z.object({ frame: z.literal("news"), scope: z.literal("you"), news: OwnNews }),
  ])
  .meta({ id: "News", description: "Something happened." });
export type News = z.infer<typeof News>;

/** A message that a member has passed to the room. It is not state: whoever was not there has missed it. */
export const Relayed = z
  .object({ frame: z.literal("relayed"), room: RoomId, from: PlayerId, body: z.unknown() })
  .meta({ id: "Relayed" });
export type Relayed = z.infer<typeof Relayed>;

/** A slip of the client that belongs to no request. The connection stays open until slips go on. */
export const Refused = z.object({ frame: z.literal("refused"), problem: Problem }).meta({ id: "Refused" });
export type Refused = z.infer<typeof Refused>;

/** Last frame before the service closes the socket, with the reason. */
export const Closing = z.object({ frame: z.literal("closing"), problem: Problem }).meta({ id: "Closing" });
export type Closing = z.infer<typeof Closing>;

export const ServiceFrame = z.union([Welcome, Reply, News, Relayed, Refused, Closing]);
export type ServiceFrame = z.infer<typeof ServiceFrame>;
