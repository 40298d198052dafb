import { z } from "zod";
import { AccountId, BanView } from "./accounts.ts";
import { AtMs } from "./basics.ts";
import { PlayerId } from "./ids.ts";
import { PlayerView } from "./operator-api.ts";

/** An account, or the id of a player. */
export const Who = z.union([PlayerId, AccountId], {
  error: "expected an account, such as game:4711, or the id of a player",
});

export const PersonEvent = z.object({
  seq: z.int(),
  atMs: AtMs,
  kind: z.string(),
  event: z.record(z.string(), z.unknown()),
});
export type PersonEvent = z.infer<typeof PersonEvent>;

export const PersonExport = z
  .object({
    account: z.string().optional(),
    players: z.array(z.string()).meta({ description: "Ids of the players it was, as far as is known." }),
    names: z.array(z.string()),
    present: z.array(PlayerView).meta({ description: "Those of them who are known now." }),
    bans: z.array(BanView),
    events: z.array(PersonEvent).meta({ description: "All events that name it, the oldest first." }),
    more: z.boolean().meta({ description: "Whether there are more events than are given." }),
  })
  .meta({ id: "PersonExport", description: "All that is kept of a person." });
export type PersonExport = z.infer<typeof PersonExport>;

export const PersonErased = z
  .object({
    players: z.array(z.string()),
    events: z.int().meta({ description: "Events in which something was replaced." }),
  })
  .meta({ id: "PersonErased" });
export type PersonErased = z.infer<typeof PersonErased>;
