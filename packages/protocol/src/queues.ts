import { z } from "zod";
import { AccountId } from "./accounts.ts";
import { AtMs } from "./basics.ts";
import { ConfigName, id, PartyId, PlayerId, RoomId } from "./ids.ts";

export const TicketId = id("t", "a ticket");
export type TicketId = z.infer<typeof TicketId>;
export const MatchId = id("m", "a match");
export type MatchId = z.infer<typeof MatchId>;

export const QueueMode = z.enum(["open", "paused", "draining"]).meta({
  id: "QueueMode",
  description: "open; paused: nobody comes in and no match is made; draining: nobody comes in, who waits is matched.",
});
export type QueueMode = z.infer<typeof QueueMode>;

/** How long tickets like this one have waited lately. */
export const WaitEstimate = z
  .object({
    p25S: z.number().meta({ description: "25th percentile." }),
    p50S: z.number().meta({ description: "Median." }),
    p75S: z.number().meta({ description: "75th percentile." }),
    from: z.int().meta({ description: "How many waits this was made from." }),
    alike: z.boolean().meta({ description: "Whether they were all of parties of the same size." }),
  })
  .meta({ id: "WaitEstimate", description: "How long tickets like this one have waited lately, in seconds." });
export type WaitEstimate = z.infer<typeof WaitEstimate>;

export const TicketView = z
  .object({
    id: TicketId,
    queue: ConfigName,
    also: z.array(ConfigName).optional().meta({ description: "Other queues that it searches in as well." }),
    leader: PlayerId,
    party: PartyId.optional().meta({ description: "The party that searches, where it is one that lasts." }),
    players: z.array(z.object({ id: PlayerId, name: z.string(), agreed: z.boolean() })),
    state: z.enum(["asking", "searching", "held", "confirming"]).meta({
      description:
        "asking: members have still to agree; held: kept, not matched, while one of its players is away; confirming: a match was found and its players are asked.",
    }),
    confirm: z
      .object({
        match: MatchId,
        untilMs: AtMs.meta({ description: "Who has not answered by then counts as having said no." }),
        players: z.int().meta({ description: "Players of the match." }),
        accepted: z.array(PlayerId).meta({ description: "Who of the match has accepted so far." }),
      })
      .optional()
      .meta({ description: "While confirming." }),
    sinceMs: AtMs.optional().meta({ description: "Since when it waits; a match that came to nothing does not count." }),
    untilMs: AtMs.optional().meta({ description: "When the search ends with nobody found, or the asking." }),
    estimate: WaitEstimate.optional().meta({ description: "Absent while it is not known yet." }),
  })
  .meta({ id: "Ticket", description: "One search by one party." });
export type TicketView = z.infer<typeof TicketView>;

/** Why a search is over. */
export const TicketEnd = z
  .enum([
    ...["matched", "cancelled", "nobody-found", "not-agreed", "player-left", "went-elsewhere", "refused"],
    ...["declined", "not-confirmed"],
  ] as const)
  .meta({
    id: "TicketEnd",
    description:
      "matched; cancelled by one of its players; nobody found in time; not all have agreed in time; a player is gone; a player went into a room; the rules have changed and refuse it; a player declined the match; a player did not answer in time.",
  });
export type TicketEnd = z.infer<typeof TicketEnd>;

export const QueueSummary = z
  .object({
    id: ConfigName,
    title: z.string(),
    lobby: ConfigName,
    mode: QueueMode,
    requires: z
      .object({
        numbers: z.array(z.string()).meta({ description: "Attributes that have to be numbers." }),
        others: z.array(z.string()).meta({ description: "Other attributes that have to be there; build is known." }),
        regions: z.array(z.string()).meta({ description: "Regions that latencies are looked at of." }),
      })
      .meta({ description: "What a search has to bring." }),
    tickets: z.int().meta({ description: "Tickets that search." }),
    players: z.int().meta({ description: "Players that search." }),
    confirming: z.int().meta({ description: "Matches whose players are being asked." }),
    backfill: z.int().meta({ description: "Rooms that play and ask for players in the place of those who left." }),
    oldestSinceMs: AtMs.optional().meta({ description: "Since when the longest waiting one waits." }),
    matches: z.int().meta({ description: "Matches made since the harbor was founded." }),
    lately: z
      .object({
        matches: z.int(),
        sinceMs: AtMs.meta({ description: "When the first of them was made." }),
        spread: z.array(z.object({ attribute: z.string(), mean: z.number() })),
      })
      .optional()
      .meta({ description: "The last matches, at most 100: how many, since when, and the mean of their spreads." }),
  })
  .meta({ id: "QueueSummary", description: "A queue in numbers." });
export type QueueSummary = z.infer<typeof QueueSummary>;

const PACE_FROM = 5;

/** Matches a minute, over those that are remembered; undefined while they are too few to tell a pace. */
export function matchesPerMinute({ lately }: QueueSummary, nowMs: number): number | undefined {
  if (lately === undefined || lately.matches < PACE_FROM) return undefined;
  return lately.matches / Math.max(1 / 60, (nowMs - lately.sinceMs) / 60_000);
}

export const MatchQualityView = z
  .object({
    score: z.number(),
    spread: z.record(z.string(), z.number()),
    sideGap: z.record(z.string(), z.number()),
    worstLatencyMs: z.number().nullable(),
    longestWaitS: z.number(),
    meanWaitS: z.number(),
    allowed: z
      .number()
      .optional()
      .meta({ description: "Points of score that the mean wait made up for, in a queue that chooses by price." }),
    unmet: z
      .array(z.string())
      .optional()
      .meta({ description: "Attributes of preferences that its tickets do not share." }),
  })
  .meta({ id: "MatchQuality" });

export const MatchView = z
  .object({
    id: MatchId,
    queue: ConfigName,
    atMs: AtMs,
    region: z.string().nullable(),
    tickets: z.array(z.object({ id: TicketId, players: z.array(z.string()), waitedS: z.number() })),
    sides: z.array(z.array(z.string())).meta({ description: "Ids of the players of each side." }),
    roles: z
      .record(PlayerId, z.string())
      .optional()
      .meta({ description: "The role that each player takes, where the queue has a line-up." }),
    quality: MatchQualityView,
    room: RoomId.optional(),
    into: RoomId.optional().meta({ description: "The playing room it fills up; absent for one that opens a room." }),
    confirming: z.boolean().optional().meta({ description: "Its players are being asked." }),
  })
  .meta({ id: "Match", description: "What a queue made of tickets." });
export type MatchView = z.infer<typeof MatchView>;

export const RatingView = z
  .object({
    account: AccountId,
    rank: z.int().min(1),
    rating: z.number(),
    deviation: z.number().meta({ description: "How uncertain it is now; it grows while the account does not play." }),
    volatility: z.number(),
    matches: z.int(),
    atMs: AtMs.meta({ description: "Of the last match." }),
  })
  .meta({ id: "Rating", description: "How good an account is, by the results of a queue's matches (Glicko-2)." });
export type RatingView = z.infer<typeof RatingView>;

export const RatingList = z
  .object({
    queue: ConfigName,
    attribute: z.string().meta({ description: "Attribute of tickets that the rating stands for." }),
    ratings: z.array(RatingView),
    total: z.int().meta({ description: "Accounts that are rated in the queue." }),
  })
  .meta({ id: "RatingList", description: "The ratings of a queue, the highest first." });
export type RatingList = z.infer<typeof RatingList>;

export const RatingQuery = z.object({
  account: AccountId.optional(),
  limit: z.coerce.number().int().min(1).max(500).default(100),
});

export const SetRating = z
  .strictObject({
    account: AccountId,
    rating: z.number().min(-100_000).max(100_000),
    deviation: z.number().positive().max(350).optional(),
  })
  .meta({ id: "SetRating" });

export const BeginSeason = z
  .strictObject({
    keep: z
      .number()
      .min(0)
      .max(1)
      .default(0.5)
      .meta({ description: "Share of the distance to the start that ratings keep." }),
    minDeviation: z.number().positive().max(350).optional().meta({
      description: "How uncertain every rating is at least; that of an account without a match when left out.",
    }),
  })
  .meta({ id: "BeginSeason" });

export const QueueList = z.object({ queues: z.array(QueueSummary) }).meta({ id: "QueueList" });
export type QueueList = z.infer<typeof QueueList>;

export const SetQueueMode = z.strictObject({ mode: QueueMode }).meta({ id: "SetQueueMode" });

export const BackfillRoom = z
  .strictObject({ wanted: z.boolean().meta({ description: "Whether its queue is to look for players for it." }) })
  .meta({ id: "BackfillRoom" });

export const TicketQuery = z.object({
  queue: ConfigName.optional(),
  limit: z.coerce.number().int().min(1).max(1_000).default(100),
});
export const TicketList = z
  .object({ tickets: z.array(TicketView), total: z.int() })
  .meta({ id: "TicketList", description: "Tickets, the longest waiting first." });
export type TicketList = z.infer<typeof TicketList>;

export const MatchQuery = z.object({
  queue: ConfigName.optional(),
  limit: z.coerce.number().int().min(1).max(1_000).default(20),
});
export const MatchList = z.object({ matches: z.array(MatchView) }).meta({
  id: "MatchList",
  description: "The matches that are remembered, the newest first.",
});
export type MatchList = z.infer<typeof MatchList>;

const TicketFunnel = z.array(z.object({ rule: z.string(), left: z.int(), text: z.string() })).meta({
  description: "How many of the others are left after each rule, in the order in which the rules are checked.",
});

export const TicketExplanation = z
  .object({
    ticket: TicketId,
    queue: ConfigName,
    waitedS: z.number(),
    funnel: TicketFunnel,
    tolerances: z.array(
      z.object({
        rule: z.string(),
        now: z.number(),
        max: z.number(),
        maxAfterS: z.number().meta({ description: "Seconds of waiting after which the maximum is accepted." }),
        unit: z.string(),
      }),
    ),
    nearest: z.array(z.object({ ticket: z.string(), falls: z.string().nullable(), text: z.string() })).meta({
      description: "The nearest other tickets, and the first rule by which each falls out; null for those in reach.",
    }),
    next: z
      .object({ inS: z.number(), more: z.int(), text: z.string() })
      .optional()
      .meta({ description: "When waiting alone brings more of those who wait now into reach." }),
    offer: z
      .object({
        tickets: z.array(z.string()),
        score: z.number(),
        meanWaitS: z.number(),
        allowed: z.number().meta({ description: "Points of score that the mean wait makes up for now." }),
        inS: z.number().nullable().meta({
          description: "Seconds until it is good enough, if nobody comes or goes; null when it never will be.",
        }),
        text: z.string(),
      })
      .optional()
      .meta({ description: "In a queue that chooses by price: the best match it could have now." }),
    estimate: WaitEstimate.optional(),
    also: z
      .array(z.object({ queue: ConfigName, funnel: TicketFunnel, text: z.array(z.string()) }))
      .optional()
      .meta({ description: "The same in its other queues, where it searches in several." }),
    text: z.array(z.string()),
  })
  .meta({ id: "TicketExplanation", description: "Why a ticket is still waiting, with the numbers." });
export type TicketExplanation = z.infer<typeof TicketExplanation>;

export const MatchExplanation = z
  .object({ match: MatchView, text: z.array(z.string()) })
  .meta({ id: "MatchExplanation", description: "Why these, in which sides, with what quality." });
export type MatchExplanation = z.infer<typeof MatchExplanation>;
