import { ConfigName, Ms } from "@yellow-harbor/protocol";
import { z } from "zod";

/** Whom texts of players are shown before others see them. */
export const TextFilter = z
  .strictObject({
    url: z.url({ protocol: /^https?$/ }).meta({ description: "Where each text is sent, by POST." }),
    secrets: z.array(ConfigName).min(1).max(2).meta({
      description: "Names of `secrets` that each request is signed with, as those of webhooks are.",
    }),
    texts: z
      .array(z.enum(["chat", "message", "player-name", "room-name"]))
      .min(1)
      .default(["chat", "message", "player-name", "room-name"])
      .meta({ description: "Which texts are shown to it." }),
    timeoutMs: Ms(500, "How long an answer may take.", { min: 50, max: 10_000 }),
    onFailure: z.enum(["pass", "refuse"]).default("refuse").meta({
      description: "What becomes of a text without an answer in time: it is let through, or refused.",
    }),
    privateAddresses: z.boolean().default(false).meta({
      description: "Whether the address may be one of this computer or of its own network.",
    }),
  })
  .meta({ description: "A service of your own that lets texts of players through, changes or refuses them." });
export type TextFilterConfig = z.output<typeof TextFilter>;
