import { z } from "zod";
import { ConfigName } from "../ids.ts";
import { PARTY_MAX } from "../limits.ts";
import { type DeepReadonly, isUnique, Ms, orNull } from "./parts.ts";

export const Lobby = z.strictObject({
  title: z.string().min(1).max(64),
  roomKinds: z
    .array(ConfigName)
    .min(1)
    .max(32)
    .meta({ description: "Room kinds that may be opened here, the default first." }),
  quickJoinBy: z
    .array(z.enum(["places", "latency", "age"]))
    .min(1)
    .refine(isUnique, "expected each preference once")
    .default(["places", "latency", "age"])
    .meta({
      description:
        "What room.quick-join prefers, the most important first: places, the fewest free ones; latency, the lowest median of the members; age, the oldest.",
    }),
  namesUpTo: z.int().min(0).max(10_000).default(100).meta({
    description:
      "With more players than this the lobby is crowded: its state has numbers only, without names. The names come back at four fifths of this or fewer.",
  }),
  guests: z.boolean().default(true).meta({
    description: "Whether players come in without an account of the game.",
  }),
  uniqueNames: z.boolean().default(false).meta({
    description:
      "Whether a name that looks like the name of another player of the lobby is refused: the same in another case, with other joiners or marks, or in letters of another script.",
  }),
  party: z
    .strictObject({
      maxSize: z.int().min(2).max(PARTY_MAX).default(8).meta({ description: "Most members of a party." }),
      invites: z.enum(["anybody", "friends", "nobody"]).default("anybody").meta({
        description:
          "Whom a member may invite into a party: anybody, those it knows by the word of the game's back end, or nobody. By its code anybody joins.",
      }),
      inviteMs: Ms(120_000, "How long an invitation into a party stands.", { min: 1_000, max: 3_600_000 }),
      leaderGraceMs: Ms(15_000, "How long a leader who has lost the connection still leads.", { min: 0 }),
    })
    .prefault({})
    .meta({ description: "Parties of the lobby's players; defaults when absent." }),
  directMessages: orNull(
    z
      .strictObject({
        from: z.enum(["anybody", "friends"]).default("anybody").meta({
          description: "Whose messages reach a player: anybody's of the lobby, or only those of whom it knows.",
        }),
        perSecond: z
          .number()
          .positive()
          .max(100)
          .default(0.5)
          .meta({ description: "Messages of each player in a second, on average; five at once are let through." }),
      })
      .meta({ description: "Lets people say something to one player alone; off when absent. {} for the defaults." }),
  ),
  chat: orNull(
    z
      .strictObject({
        perSecond: z
          .number()
          .positive()
          .max(100)
          .default(0.5)
          .meta({ description: "Chat messages of each player in a second, on average; five at once are let through." }),
      })
      .meta({ description: "Lets people chat to everybody in the lobby; off when absent. {} for the defaults." }),
  ),
});
export type LobbyRules = DeepReadonly<z.output<typeof Lobby>>;

/** places: fewest free ones first; latency: lowest median first; age: oldest first. */
export type QuickJoinPreference = LobbyRules["quickJoinBy"][number];
