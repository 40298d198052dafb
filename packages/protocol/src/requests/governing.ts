import { z } from "zod";
import { Port } from "../config/parts.ts";
import { ConfigName, PlayerId, SideName } from "../ids.ts";
import { CAPACITY_MAX, CAPACITY_MIN } from "../limits.ts";
import { SettingsPatch } from "../settings.ts";
import { DisplayName, Reason, RoomPassword } from "../text.ts";
import { Visibility } from "../views.ts";
import { Done, Nothing } from "./shapes.ts";

const BasedOn = z.int().nonnegative().optional().meta({
  description:
    "The settingsRevision the change was made from; refused as stale, with the present ones, when it is not that any more.",
});

/** What the room is, who stands where, and who decides. */
export const governingRequests = {
  "room.here": {
    summary: "Say that one is still here, when one is asked. Whatever else one does in the room says so as well.",
    args: Nothing,
    reply: Done,
  },
  "room.tell-echo": {
    summary:
      "Tell those who look for a room where one's own world answers echoes, or nowhere any more. Host only, where the room kind lets it.",
    args: z.strictObject({
      port: Port.nullable().meta({ description: "Port at the address that the service sees one at; null for none." }),
      transport: z.enum(["udp", "websocket"]).default("udp"),
    }),
    reply: Done,
  },
  "room.change": {
    summary: "Change name, capacity, visibility, level or free settings, by merge patch. Host only.",
    args: z.strictObject({
      name: DisplayName.optional(),
      capacity: z
        .int()
        .min(CAPACITY_MIN)
        .max(CAPACITY_MAX)
        .optional()
        .meta({ description: "While gathering, never below who is in." }),
      visibility: Visibility.optional(),
      password: RoomPassword.nullable().optional().meta({ description: "null for none. Members stay." }),
      level: ConfigName.optional().meta({ description: "While gathering." }),
      settings: SettingsPatch.optional(),
      variant: ConfigName.optional().meta({
        description: "Variant of the room kind, beside which `settings` still counts.",
      }),
      basedOn: BasedOn,
    }),
    reply: Done,
  },
  "room.pick-level": {
    summary: "Pick the level to travel to. Host only, while gathering.",
    args: z.strictObject({ level: ConfigName, basedOn: BasedOn }),
    reply: Done,
  },
  "room.hand-over": {
    summary: "Make another member the host. Host only.",
    args: z.strictObject({ to: PlayerId }),
    reply: Done,
  },
  "room.kick": {
    summary: "Put a member out of the room; with ban it cannot come back in. Host only.",
    args: z.strictObject({ player: PlayerId, reason: Reason.optional(), ban: z.boolean().default(false) }),
    reply: Done,
  },
  "room.unban": {
    summary: "Lift a ban. Host only.",
    args: z.strictObject({ player: PlayerId }),
    reply: Done,
  },
  "room.move-to": {
    summary: "Take a free place, or go over to another side, while gathering.",
    args: z
      .strictObject({ place: z.int().min(0).max(CAPACITY_MAX).optional(), side: SideName.optional() })
      .refine((args) => args.place !== undefined || args.side !== undefined, {
        message: "expected a place, a side, or both",
        path: ["place"],
      }),
    reply: Done,
  },
  "room.swap": {
    summary:
      "Offer another member to change places and sides, while gathering; done once both have offered. Offer oneself to take an offer back.",
    args: z.strictObject({ with: PlayerId }),
    reply: Done,
  },
  "room.balance": {
    summary: "Even the sides out, moving as few members as possible. Host only, while gathering.",
    args: Nothing,
    reply: Done,
  },
} as const satisfies Record<string, { summary: string; args: z.ZodType; reply: z.ZodType }>;
