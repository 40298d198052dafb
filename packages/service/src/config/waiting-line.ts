import { Ms } from "@yellow-harbor/protocol";
import { z } from "zod";

/** Where players wait while the harbor is full. */
export const WaitingLine = z
  .strictObject({
    max: z.int().min(0).max(100_000).default(10_000).meta({
      description: "Most players who wait; 0 for no line: whoever comes to a full harbor is refused.",
    }),
    graceMs: Ms(60_000, "How long the place of one who has lost the connection is good.", { min: 0, max: 3_600_000 }),
  })
  .prefault({})
  .meta({ description: "The line in which players wait while all places of players.limit are taken." });
export type WaitingLineConfig = z.output<typeof WaitingLine>;
