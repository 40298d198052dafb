import { z } from "zod";
import { BoardKey, OnLeave } from "../board.ts";
import { ConfigName, PlayerId } from "../ids.ts";
import { PlayerJson } from "../json-value.ts";
import { CAPACITY_MAX } from "../limits.ts";
import { RelayTo } from "../relay-bytes.ts";
import { SetResult } from "../results.ts";
import { SettingsPatch } from "../settings.ts";
import { Done, Nothing } from "./shapes.ts";

const IfRevision = z.int().nonnegative().optional().meta({
  description: "Compare and set: 0 for an entry that must not be there yet.",
});

/** Start, turns, results, and what members share while they are together. */
export const playingRequests = {
  "room.ready": {
    summary: "Say that one is ready, or is not, while gathering.",
    args: z.strictObject({ ready: z.boolean() }),
    reply: Done,
  },
  "room.vote": {
    summary: "Say which level one is for, where levels are voted for; the one with most votes is picked.",
    args: z.strictObject({ level: ConfigName }),
    reply: Done,
  },
  "room.set-background": {
    summary: "Say that one's game has gone to the background, or is in front again.",
    args: z.strictObject({ background: z.boolean() }),
    reply: Done,
  },
  "room.start": {
    summary: "Start the travel. Refused with what is missing until everything is there; works once.",
    args: Nothing,
    reply: Done,
  },
  "room.stop-count": {
    summary: "Stop the countdown. Host only.",
    args: Nothing,
    reply: Done,
  },
  "room.set-result": {
    summary: "Set the result of the run, once. Host only, where the room kind leaves it to the host.",
    args: SetResult,
    reply: Done,
  },
  "room.again": {
    summary: "While the results are shown: start again, at once, with who is here. Host only.",
    args: z.strictObject({
      level: ConfigName.optional().meta({ description: "The same level when absent, or the one that is next." }),
    }),
    reply: Done,
  },
  "room.gather": {
    summary: "While the results are shown: gather again, now. Host only.",
    args: Nothing,
    reply: Done,
  },
  "room.pass-turn": {
    summary:
      "Pass the turn on: to the next place in the circle, or to one member. The host brings it in; its holder and the host pass it.",
    args: z.strictObject({
      to: PlayerId.optional().meta({ description: "The next in the circle who is here, when absent." }),
      limitMs: z
        .int()
        .min(1_000)
        .max(3_600_000)
        .optional()
        .meta({ description: "Host: from now on each turn lasts at most so long. In milliseconds." }),
    }),
    reply: Done,
  },
  "room.end-turns": {
    summary: "Take the turn out of the room. Host only.",
    args: Nothing,
    reply: Done,
  },
  "board.set": {
    summary:
      "Write an entry of the room's board: a new one, one's own, or any as host. With ifRevision only if it is still that one.",
    args: z.strictObject({
      key: BoardKey,
      value: PlayerJson,
      onLeave: OnLeave.optional().meta({ description: "remove when left out and the entry is new." }),
      ifRevision: IfRevision,
    }),
    reply: Done,
  },
  "board.remove": {
    summary: "Remove an entry of the room's board: one's own, or any as host.",
    args: z.strictObject({ key: BoardKey, ifRevision: IfRevision }),
    reply: Done,
  },
  "room.set-attributes": {
    summary:
      "Say what one brings into this room alone: a merge patch over what one brings into every room, null for that.",
    args: z.strictObject({ attributes: SettingsPatch }),
    reply: Done,
  },
  "room.tell-latencies": {
    summary:
      "Tell how far the other members are from one, as the game has measured it. The next host may be chosen by it.",
    args: z.strictObject({
      latencyMs: z
        .record(PlayerId, z.number().min(0).max(60_000))
        .refine((all) => Object.keys(all).length <= CAPACITY_MAX, `expected at most ${CAPACITY_MAX} members`)
        .meta({ description: "Round trips to members, in milliseconds; they replace those told before." }),
    }),
    reply: Done,
  },
  "room.signal": {
    summary:
      "Pass something to one member that helps the two to connect directly, such as addresses; where the room kind lets them.",
    args: z.strictObject({ to: PlayerId, body: PlayerJson }),
    reply: z.object({ delivered: z.boolean().meta({ description: "Whether it is connected and was sent it." }) }),
  },
  "room.relay": {
    summary: "Pass a message to members of the room: not state, not kept, ordered per room.",
    args: z.strictObject({
      to: RelayTo.default("others").meta({
        description: "all, others (all but oneself), one member, or the members of a side.",
      }),
      body: PlayerJson,
    }),
    reply: z.object({ delivered: z.int().meta({ description: "Members who are connected and were sent it." }) }),
  },
} as const satisfies Record<string, { summary: string; args: z.ZodType; reply: z.ZodType }>;
