import { z } from "zod";
import { AtMs } from "./basics.ts";
import { ConfigName, PartyId, RoomId, RunId } from "./ids.ts";
import { PartyLeft } from "./parties.ts";
import { ReportReason, SaidView } from "./relations.ts";
import { ansel, brisa, event, members, WebhookPlayer as Player, party, room, why } from "./webhook-shapes.ts";

/** What webhooks tell of players and of parties, by its type. */
export const peopleEvents = {
  "player.connected": event(
    "player",
    "A player has come.",
    z.object({ player: Player, lobby: ConfigName, build: z.string() }),
    { player: ansel, lobby: "quayside", build: "tidewrights-0.3" },
  ),
  "player.lost": event(
    "player",
    "A player's connection is gone; its place is kept for a while.",
    z.object({ player: Player, lobby: ConfigName, room: RoomId.optional(), untilMs: AtMs }),
    { player: ansel, lobby: "quayside", room: room.id, untilMs: 1_795_950_030_000 },
  ),
  "player.resumed": event(
    "player",
    "A player who was lost has come back.",
    z.object({ player: Player, lobby: ConfigName, room: RoomId.optional() }),
    { player: ansel, lobby: "quayside", room: room.id },
  ),
  "player.left": event(
    "player",
    "A player has gone for good.",
    z.object({
      player: Player,
      lobby: ConfigName,
      room: RoomId.optional(),
      reason: z.enum(["left", "lost", "kicked"]),
    }),
    { player: ansel, lobby: "quayside", reason: "left" },
  ),
  "player.reported": event(
    "player",
    "A player has reported another, with what that one said lately.",
    z.object({
      player: Player.meta({ description: "Who is reported." }),
      by: Player,
      reason: ReportReason,
      text: z.string().optional(),
      lobby: ConfigName,
      room: RoomId.optional().meta({ description: "The room of the one who reports." }),
      run: RunId.optional(),
      said: z.array(SaidView).meta({ description: "Of the last ten minutes, the oldest first." }),
    }),
    {
      player: brisa,
      by: ansel,
      reason: "abuse",
      lobby: "quayside",
      room: room.id,
      said: [{ text: "Go home.", to: "lobby", atMs: 1_795_950_000_000 }],
    },
  ),
  "party.opened": event(
    "party",
    "A party is founded.",
    z.object({ party: PartyId, lobby: ConfigName, leader: Player }),
    { party, lobby: "quayside", leader: ansel },
  ),
  "party.joined": event(
    "party",
    "A player has joined a party.",
    z.object({ party: PartyId, player: Player, members }),
    {
      party,
      player: brisa,
      members: 2,
    },
  ),
  "party.left": event(
    "party",
    "A player is in a party no longer; with the last one it is gone.",
    z.object({
      party: PartyId,
      player: Player,
      cause: PartyLeft,
      why: why.optional(),
      leader: Player.optional().meta({ description: "Who leads from now on, when the leader left." }),
      members,
    }),
    { party, player: brisa, cause: "left", members: 1 },
  ),
  "party.led": event("party", "Another member leads a party.", z.object({ party: PartyId, leader: Player }), {
    party,
    leader: brisa,
  }),
} as const;
