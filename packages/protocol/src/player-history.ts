import { z } from "zod";
import { PlayerId } from "./ids.ts";
import { ProblemCode } from "./problems.ts";

const Told = z.object({ seq: z.int(), atMs: z.int(), kind: z.string(), text: z.string() });

export const PlayerPastQuery = z.object({
  before: z.coerce.number().int().min(1).optional().meta({ description: "Only events with lower numbers than this." }),
  story: z.coerce.number().int().min(1).max(200).default(40).meta({ description: "How many events are told." }),
});

export const RefusalView = z
  .object({
    atMs: z.int(),
    ask: z.string().meta({ description: "What the player asked for." }),
    code: ProblemCode,
    detail: z.string(),
    times: z.int().min(1).meta({ description: "How often in a row." }),
  })
  .meta({ id: "RefusalView" });
export type RefusalView = z.infer<typeof RefusalView>;

export const PlayerHistory = z
  .object({
    player: PlayerId,
    story: z.array(Told).meta({ description: "What it did and what happened to it, oldest first." }),
    older: z.int().optional().meta({ description: "Ask with `before` this for what was before, when there is more." }),
    refusals: z.array(RefusalView).meta({
      description: "What it was refused lately, the newest first; kept in memory for an hour at the most.",
    }),
  })
  .meta({ id: "PlayerHistory", description: "What a player did and what happened to it, in sentences." });
export type PlayerHistory = z.infer<typeof PlayerHistory>;
