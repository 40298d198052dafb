import { z } from "zod";
import { BoardKey } from "./board.ts";
import { PlayerId, SideName } from "./ids.ts";

/** Who may see a private entry beside its owner. */
export const PrivateReaders = z
  .union([z.strictObject({ player: PlayerId }), z.strictObject({ side: SideName })])
  .meta({ id: "PrivateReaders", description: "One member, or whoever is on a side." });
export type PrivateReaders = z.infer<typeof PrivateReaders>;

/** As it is told: a newer service may say more of them. */
const ReadersView = z
  .union([z.object({ player: PlayerId }), z.object({ side: SideName })])
  .meta({ id: "PrivateReadersTold", description: "One member, or whoever is on a side." });

export const PrivateEntryView = z
  .object({
    owner: PlayerId.meta({ description: "Who has written it. Owners do not get into each other's way with keys." }),
    key: BoardKey,
    to: ReadersView,
    value: z.unknown(),
    revision: z.int().min(1).meta({ description: "Goes up by one with each write of the entry." }),
  })
  .meta({ id: "PrivateEntry", description: "Something in a room that only some of its members see." });
export type PrivateEntryView = z.infer<typeof PrivateEntryView>;

export const PrivateEntryList = z
  .object({ entries: z.array(PrivateEntryView) })
  .meta({ id: "PrivateEntryList", description: "All private entries of a room, with whom they are for." });
export type PrivateEntryList = z.infer<typeof PrivateEntryList>;
