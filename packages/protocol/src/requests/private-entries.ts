import { z } from "zod";
import { BoardKey } from "../board.ts";
import { PlayerJson } from "../json-value.ts";
import { PrivateReaders } from "../private-entries.ts";

const Written = z.object({ revision: z.int().meta({ description: "Revision of the entry." }) });

/** What only some members of a room see. */
export const privateRequests = {
  "private.set": {
    summary:
      "Write something into the room that only one member, or those on one side, see beside oneself. It goes when its owner leaves.",
    args: z.strictObject({ key: BoardKey, value: PlayerJson, to: PrivateReaders }),
    reply: Written,
  },
  "private.remove": {
    summary: "Remove what one has written so.",
    args: z.strictObject({ key: BoardKey }),
    reply: z.object({ removed: z.boolean().meta({ description: "false: there was no such entry." }) }),
  },
} as const satisfies Record<string, { summary: string; args: z.ZodType; reply: z.ZodType }>;
