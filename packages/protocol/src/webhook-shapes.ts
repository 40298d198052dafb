import { z } from "zod";
import { AccountId } from "./accounts.ts";
import { ConfigName, InstanceId, PlayerId, RoomId } from "./ids.ts";

export const WebhookPlayer = z
  .object({
    id: PlayerId,
    name: z.string(),
    account: AccountId.optional().meta({ description: "Absent for a guest without a device key." }),
  })
  .meta({ id: "WebhookPlayer", description: "A player, as others are told of it." });

export const WebhookRoom = z
  .object({ id: RoomId, code: z.string(), name: z.string(), kind: ConfigName, lobby: ConfigName })
  .meta({ id: "WebhookRoom", description: "A room, as others are told of it." });

export const WebhookInstance = z
  .object({ id: InstanceId, pool: ConfigName, build: ConfigName, version: z.string(), machine: ConfigName })
  .meta({ id: "WebhookInstance", description: "An instance, as others are told of it." });

export const why = z.string().meta({ description: "In words, for people." });
export const members = z.int().meta({ description: "Players in the room, or party, now." });

/** What is told, and when. `about` is what events are kept in order by. */
export const event = <D extends z.ZodType>(about: About, when: string, data: D, example: z.input<D>) => ({
  about,
  when,
  data,
  example,
});
type About =
  | "player"
  | "party"
  | "room"
  | "match"
  | "instance"
  | "build"
  | "machine"
  | "ban"
  | "alert"
  | "audit"
  | "webhook";

export const ansel = { id: "p_4kq2m7c9x0ab", name: "Ansel", account: "game:4711" };
export const brisa = { id: "p_9mw3t1z8k5cd", name: "Brisa", account: "game:4712" };
export const room = { id: "r_7hx2q9d4m1ef", code: "K7RDM", name: "Ansel's crew", kind: "two-crews", lobby: "quayside" };
export const instance = {
  id: "i_2bn8v4s6y3gh",
  pool: "sluice",
  build: "breakwater",
  version: "0.3.1",
  machine: "here",
};
export const party = "g_2hq8v5c1n7te";
export const run = "u_5jp1r7w0a9kl";
