import { faultsOfRules, type MatchRules, type QueueRules, REGIONS_MAX, type RuleFault } from "@yellow-harbor/core";
import {
  Backfill,
  CAPACITY_MAX,
  ConfigName,
  Confirm,
  isUnique,
  Leavers,
  Ms,
  orNull,
  SettingKey,
  SettingValue,
  WhenLeft,
} from "@yellow-harbor/protocol";
import { z } from "zod";

const SECONDS_MAX = 86_400;

const Curve = (what: string) =>
  z
    .array(z.tuple([z.number().min(0).max(SECONDS_MAX), z.number().min(0).max(1e12)]))
    .min(1)
    .max(32)
    .meta({
      description: `${what}, as points [seconds waited, value]: straight lines between them, flat after the last. The first is at 0 s.`,
    });

const Sides = z.strictObject({
  count: z.int().min(1).max(CAPACITY_MAX).default(2).meta({ description: "How many sides a match has." }),
  min: z
    .int()
    .min(1)
    .max(CAPACITY_MAX)
    .optional()
    .meta({ description: "Minimum of players on each side; max when left out." }),
  max: z.int().min(1).max(CAPACITY_MAX).meta({ description: "Maximum of players on each side." }),
  uneven: z.boolean().default(false).meta({ description: "Whether the sides of a match may differ in size." }),
});

const Party = z
  .strictObject({
    max: z.int().min(1).max(8).optional().meta({
      description: "Maximum of players of a party; as many as fit a side, up to 8, when left out.",
    }),
    together: z.boolean().default(true).meta({ description: "Whether a party stays on one side." }),
  })
  .prefault({});

const Attribute = SettingKey.meta({ description: "Attribute of the ticket or of its players." });

const Need = z.union([
  z.strictObject({
    attribute: Attribute,
    must: z
      .enum(["equal", "overlap"])
      .meta({ description: "The same in all tickets; or lists with something in common." }),
  }),
  z.strictObject({
    attribute: Attribute,
    oneOf: z.array(SettingValue).max(256).meta({ description: "Values that fit." }),
  }),
  z
    .strictObject({
      attribute: Attribute,
      from: z.number().optional().meta({ description: "Smallest number that fits." }),
      to: z.number().optional().meta({ description: "Largest number that fits." }),
    })
    .refine(({ from, to }) => from !== undefined || to !== undefined, "expected from, to or both"),
]);

const Closeness = z.strictObject({
  attribute: Attribute,
  gap: Curve("Largest gap to any other ticket of the match"),
  party: z.enum(["mean", "highest", "lowest"]).default("mean").meta({
    description: "By which of its players' numbers a party counts.",
  }),
  weight: z.number().min(0).max(1e6).default(1).meta({
    description: "How much a unit of spread weighs in the score of a match; the lowest score is the best.",
  }),
});

const Latency = z.strictObject({
  regions: z.array(ConfigName).min(1).max(REGIONS_MAX).refine(isUnique, "expected each region once"),
  ceilingMs: Curve("Highest latency to the region of the match, in milliseconds"),
});

const LineUp = z.strictObject({
  attribute: Attribute,
  perSide: z
    .record(ConfigName, z.int().min(1).max(CAPACITY_MAX))
    .refine((roles) => Object.keys(roles).length > 0, "expected at least one role")
    .meta({ description: "Players of each side for each role." }),
});

const Preference = z.strictObject({
  attribute: Attribute,
  must: z.enum(["equal", "overlap"]).meta({
    description: "The same in all tickets; or lists with something in common. Who says nothing goes with everybody.",
  }),
  weight: z.number().min(0).max(1e6).meta({ description: "Points of score for a match in which it does not hold." }),
});

const Priority = z.strictObject({
  attribute: Attribute.meta({ description: "Attribute that is vouched for." }),
  headStartMs: z.record(z.string().min(1).max(64), z.int().min(0).max(3_600_000)).meta({
    description:
      "By value of the attribute: how much longer than it did a ticket counts as having waited, against others.",
  }),
});

const Rating = z.strictObject({
  attribute: Attribute.meta({
    description: "Attribute of tickets that the rating stands for: what clients or tokens say of it is not looked at.",
  }),
  start: z.number().min(-100_000).max(100_000).default(1_500).meta({ description: "Rating of a new account." }),
  deviation: z.number().positive().max(350).default(350).meta({ description: "How uncertain that is." }),
  volatility: z.number().positive().max(1).default(0.06).meta({ description: "How much it is expected to change." }),
  tau: z.number().min(0.1).max(3).default(0.5).meta({
    description: "How much one result may change the volatility: less for games with much luck.",
  }),
  periodMs: Ms(86_400_000, "In so long without a match the deviation grows once by the volatility.", {
    min: 60_000,
    max: 31_536_000_000,
  }),
  leavers: z.enum(["lose", "as-side"]).default("lose").meta({
    description: "What a result is to players who left before it: lost, or what it is to their side.",
  }),
});

const Choose = z
  .strictObject({
    by: z.enum(["oldest", "price"]).default("oldest").meta({
      description:
        "Oldest: the longest waiting ticket chooses first, and matches are made as soon as tickets fit. Price: the match with the lowest price is made first, and none before its price is 0; the price is its score less what the mean wait of its tickets makes up for.",
    }),
    allowance: Curve(
      "Points of score that the mean wait of a match's tickets makes up for, by price; no match scores more than the last",
    ).optional(),
  })
  .refine(({ by, allowance }) => (by === "price") === (allowance !== undefined), {
    message: "expected an allowance with by: price, such as [[0, 0], [60, 400]], and none otherwise",
    path: ["allowance"],
  })
  .default({ by: "oldest" })
  .meta({ description: "Which match is made first, and when it is good enough to be made." });

/** A queue: who may meet in a match, and what becomes of it. */
export const Queue = z.strictObject({
  title: z.string().min(1).max(64),
  lobby: ConfigName.meta({ description: "Lobby whose players may search in it." }),
  roomKind: ConfigName.meta({ description: "Kind of the rooms that its matches become." }),
  sides: Sides,
  party: Party,
  needs: z.array(Need).max(32).default([]).meta({ description: "What all tickets of a match must have." }),
  closeness: z.array(Closeness).max(8).default([]).meta({
    description:
      "Numbers by which the tickets of a match must be close; what is close enough grows with each ticket's own wait.",
  }),
  latency: Latency.optional(),
  lineUp: LineUp.optional(),
  fewer: z
    .array(
      z.strictObject({
        afterMs: Ms(60_000, "Wait of the ticket that the match is made for."),
        min: z.int().min(1).max(CAPACITY_MAX).meta({ description: "Minimum of players on each side from then on." }),
      }),
    )
    .max(16)
    .default([])
    .meta({ description: "Smaller matches after a long wait." }),
  choose: Choose,
  prefer: z
    .array(Preference)
    .max(8)
    .default([])
    .meta({ description: "What the tickets of a match had better have in common: where not, its score is higher." }),
  priority: Priority.optional(),
  vouched: z.array(Attribute).max(32).refine(isUnique, "expected each attribute once").default([]).meta({
    description:
      "Attributes that count only as the account token has them (players.accounts): what clients say of these themselves is not looked at.",
  }),
  confirm: orNull(Confirm.meta({ description: "Players must confirm a match before it becomes a room." })),
  whenLeft: WhenLeft,
  leavers: orNull(Leavers.meta({ description: "What it costs to leave a match that is being played." })),
  backfill: Backfill,
  rating: Rating.optional().meta({
    description: "Accounts are rated by the results of the queue's matches (Glicko-2).",
  }),
  searchMs: Ms(180_000, "After this long a search ends with nobody found; 0 for never.", { min: 0 }),
  passEveryMs: Ms(500, "How often matches are searched for while tickets wait.", { min: 50, max: 60_000 }),
});
export type QueueConfig = z.output<typeof Queue>;

const PARTY_MAX = 8;

/** The part of a queue that matches are made by. */
export function matchRulesOf({ sides, party, lineUp, latency, ...queue }: QueueConfig): MatchRules {
  const room = party.together ? sides.max : sides.max * sides.count;
  return {
    sides: { ...sides, min: sides.min ?? sides.max },
    party: { max: party.max ?? Math.min(room, PARTY_MAX), together: party.together },
    needs: queue.needs,
    closeness: queue.closeness,
    latency: latency ?? null,
    lineUp:
      lineUp === undefined
        ? null
        : {
            attribute: lineUp.attribute,
            perSide: Object.entries(lineUp.perSide).map(([role, count]) => ({ role, count })),
          },
    fewer: queue.fewer,
    prefer: queue.prefer,
    priority: queue.priority ?? null,
    choose:
      queue.choose.allowance === undefined ? { by: "oldest" } : { by: "price", allowance: queue.choose.allowance },
  };
}

export function queueRulesOf(queue: QueueConfig): QueueRules {
  const { title, lobby, roomKind, searchMs, passEveryMs, vouched, confirm, whenLeft, leavers, backfill } = queue;
  return {
    confirm,
    whenLeft,
    leavers,
    backfill,
    title,
    lobby,
    roomKind,
    passEveryMs,
    vouched,
    searchMs: searchMs === 0 ? null : searchMs,
    match: matchRulesOf(queue),
    rating: queue.rating ?? null,
  };
}

/** What is wrong with a queue by itself. */
export const queueFaults = (queue: QueueConfig): RuleFault[] => {
  const players = queue.sides.count * queue.sides.max;
  const tooMany =
    players > CAPACITY_MAX
      ? [
          {
            path: ["sides", "max"],
            message: `makes matches of ${players} players; a room holds up to ${CAPACITY_MAX}`,
          },
        ]
      : [];
  const { priority, vouched } = queue;
  const claimed =
    priority && !vouched.includes(priority.attribute)
      ? [
          {
            path: ["priority", "attribute"],
            message: `${priority.attribute} is not among vouched: anybody could claim it; add it there`,
          },
        ]
      : [];
  return [...tooMany, ...claimed, ...faultsOfRules(matchRulesOf(queue))];
};
