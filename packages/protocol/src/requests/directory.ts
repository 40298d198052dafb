import { z } from "zod";
import { ConfigName, RoomId } from "../ids.ts";
import { BUILD_MAX_CHARACTERS, CAPACITY_MAX, DIRECTORY_MAX } from "../limits.ts";
import { SettingKey, SettingValue } from "../settings.ts";
import { RoomListing, Visibility } from "../views.ts";
import { Nothing, NothingMore } from "./shapes.ts";

export const WantedSetting = z
  .union([
    SettingValue,
    z.strictObject({ anyOf: z.array(SettingValue).min(1).max(16) }),
    z
      .strictObject({ min: z.number().optional(), max: z.number().optional() })
      .refine(({ min, max }) => min !== undefined || max !== undefined, "expected min, max, or both"),
  ])
  .meta({ id: "WantedSetting", description: "A value, one of several, or a number from min to max." });
export type WantedSetting = z.output<typeof WantedSetting>;

/** What of a lobby's directory one wants to see; all that is given must hold. */
export const DirectoryFilter = z
  .strictObject({
    kind: ConfigName.optional(),
    level: ConfigName.optional(),
    region: ConfigName.optional(),
    build: z.string().min(1).max(BUILD_MAX_CHARACTERS).optional(),
    visibility: Visibility.optional().meta({ description: "Rooms joined by code alone are never listed." }),
    hasPassword: z.boolean().optional().meta({ description: "Whether the room has a password." }),
    open: z.boolean().optional().meta({ description: "Whether the room takes somebody in now." }),
    freePlaces: z.int().min(0).max(CAPACITY_MAX).optional().meta({ description: "At least so many free places." }),
    sideSize: z
      .int()
      .min(1)
      .max(CAPACITY_MAX)
      .optional()
      .meta({ description: "Sides that take exactly so many; rooms without sides do not fit." }),
    latencyMs: z
      .number()
      .positive()
      .max(60_000)
      .optional()
      .meta({ description: "Median latency of the members at most; rooms not yet measured do not fit." }),
    text: z
      .string()
      .min(1)
      .max(64)
      .optional()
      .meta({ description: "Part of the room's name or of its host's, whatever the case." }),
    settings: z
      .record(SettingKey, WantedSetting)
      .refine((wanted) => Object.keys(wanted).length <= 8, "expected at most 8 settings")
      .optional()
      .meta({ description: "What settings must be: exactly a value, one of several, or a number within bounds." }),
  })
  .meta({ id: "DirectoryFilter" });
export type DirectoryFilter = z.output<typeof DirectoryFilter>;

export const DirectorySort = z
  .enum(["newest", "oldest", "fullest", "emptiest", "latency"])
  .meta({ id: "DirectorySort", description: "Instruction of the directory; ties by id." });
export type DirectorySort = z.infer<typeof DirectorySort>;

/** What changed in a followed directory: whole listings of the rooms that came or changed, ids of those that went. */
export const DirectoryUpdate = z
  .object({
    frame: z.literal("directory"),
    changed: z.array(RoomListing),
    gone: z.array(RoomId),
    total: z.int().meta({ description: "Rooms that fit the filter now, listed here or not." }),
  })
  .meta({ id: "DirectoryUpdate", description: "What changed in the directory one follows." });
export type DirectoryUpdate = z.infer<typeof DirectoryUpdate>;

export const directoryRequests = {
  "lobby.rooms": {
    summary: "The directory of the lobby the player belongs to: filtered, sorted, a page at a time.",
    args: z.strictObject({
      filter: DirectoryFilter.optional(),
      sort: DirectorySort.default("newest"),
      limit: z.int().min(1).max(200).default(50),
      after: z.string().max(64).optional().meta({ description: "Cursor: the `next` of the page before." }),
    }),
    reply: z.object({
      rooms: z.array(RoomListing),
      total: z.int().meta({ description: "Rooms that fit the filter." }),
      next: z.string().optional().meta({ description: "Cursor of the next page, when there is one." }),
    }),
  },
  "lobby.follow": {
    summary: "The directory as it stands, and from then on what changes in it, as frames of kind directory.",
    args: z.strictObject({
      filter: DirectoryFilter.optional(),
      limit: z.int().min(1).max(DIRECTORY_MAX).default(100),
    }),
    reply: z.object({ rooms: z.array(RoomListing), total: z.int() }),
  },
  "lobby.unfollow": {
    summary: "Stop following the directory.",
    args: Nothing,
    reply: NothingMore,
  },
} as const satisfies Record<string, { summary: string; args: z.ZodType; reply: z.ZodType }>;
