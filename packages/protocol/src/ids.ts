import { z } from "zod";
import { CODE_LENGTH } from "./limits.ts";

export const id = (prefix: string, what: string) =>
  z
    .string()
    .regex(
      new RegExp(`^${prefix}_(?:[a-z0-9]{2})?[a-z0-9]{12}$`),
      `expected the id of ${what}, such as ${prefix}_4kq2m7c9x0ab`,
    )
    .meta({
      id: `${what.replace(/^an? /, "").replace(/^./, (c) => c.toUpperCase())}Id`,
      description: `Id of ${what}.`,
    });

export const PlayerId = id("p", "a player");
export const RoomId = id("r", "a room");
export const InstanceId = id("i", "an instance");
export const RunId = id("u", "a run");
export const PassId = id("b", "a pass");
export const PartyId = id("g", "a party");
export const BanId = id("x", "a ban");

export type PlayerId = z.infer<typeof PlayerId>;
export type RoomId = z.infer<typeof RoomId>;
export type InstanceId = z.infer<typeof InstanceId>;
export type RunId = z.infer<typeof RunId>;
export type PassId = z.infer<typeof PassId>;
export type PartyId = z.infer<typeof PartyId>;
export type BanId = z.infer<typeof BanId>;

/** Numbers of harbors are below this: two characters of base 36. */
export const HARBORS_MAX = 36 ** 2;

/** Number of the harbor that something belongs to, by its id. */
export function harborOfId(id: string): number {
  const [, own = ""] = id.split("_");
  return own.length === 14 ? Number.parseInt(own.slice(0, 2), 36) : 0;
}

/** Name of something in the configuration: a lobby, a level, a pool, a build line, a room kind. */
export const ConfigName = z
  .string()
  .regex(
    /^[a-z0-9]([a-z0-9-]{0,30}[a-z0-9])?$/,
    "expected 1 to 32 of a to z, 0 to 9 and -, not starting or ending with -",
  )
  .meta({ id: "ConfigName", description: "Name of something in the configuration, such as brine-gate." });
export type ConfigName = z.infer<typeof ConfigName>;

/** A room code as people type it: any case, spaces and hyphens between are forgiven. The parsed value is upper case. */
export const RoomCode = z
  .string()
  .min(1, "expected a room code")
  .max(16, `expected a room code of ${CODE_LENGTH} characters`)
  .transform((typed) => typed.replace(/[\s-]/g, "").toUpperCase());
export type RoomCode = string;

/** Name of a side of a room, as the room kind has it. */
export const SideName = ConfigName.meta({ id: "SideName", description: "Name of a side, such as north." });
export type SideName = z.infer<typeof SideName>;
