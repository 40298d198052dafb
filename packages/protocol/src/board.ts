import { z } from "zod";
import { PlayerId } from "./ids.ts";

/** Key of an entry of the board. */
export const BoardKey = z
  .string()
  .regex(
    /^[A-Za-z0-9][A-Za-z0-9._:-]{0,63}$/,
    "expected 1 to 64 of letters, digits and . _ : -, beginning with a letter or digit",
  )
  .meta({ id: "BoardKey", description: "Key of an entry of the board, such as flags.north." });
export type BoardKey = z.infer<typeof BoardKey>;

export const OnLeave = z.enum(["remove", "keep", "host"]).meta({
  id: "OnLeave",
  description: "What happens to an entry when its owner leaves: it goes too, it stays, or it passes to the host.",
});
export type OnLeave = z.infer<typeof OnLeave>;

export const BoardEntryView = z
  .object({
    // Boxed, since in a merge patch a null inside an object means "remove" while an array is taken as it is.
    box: z.array(z.unknown()).length(1).meta({ description: "The value, alone in an array." }),
    owner: PlayerId,
    revision: z.int().min(1).meta({ description: "Goes up by one with each write of the entry." }),
    onLeave: OnLeave,
  })
  .meta({ id: "BoardEntry", description: "One shared entry of a room." });
export type BoardEntryView = z.infer<typeof BoardEntryView>;
