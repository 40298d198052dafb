import { z } from "zod";
import { AccountId } from "./accounts.ts";
import { AtMs } from "./basics.ts";
import { ConfigName, PlayerId, RoomCode, SideName } from "./ids.ts";
import { BUILD_MAX_CHARACTERS } from "./limits.ts";
import { openWish } from "./requests/entry.ts";
import { governingRequests } from "./requests/governing.ts";
import { DisplayName, Reason, RoomPassword } from "./text.ts";
import { RoomView } from "./views.ts";

const DAY_MS = 86_400_000;
const MINUTE_MS = 60_000;

export const OpenByOperator = z
  .strictObject({
    lobby: ConfigName,
    ...openWish,
    name: DisplayName.optional().meta({ description: "Made from its code when absent." }),
    password: RoomPassword.optional().meta({
      description: "Whoever joins has to say it, but for those it is kept for.",
    }),
    code: RoomCode.optional().meta({ description: "The code it is to have; drawn when absent." }),
    build: z
      .string()
      .min(1)
      .max(BUILD_MAX_CHARACTERS)
      .optional()
      .meta({ description: "Build of the clients that may join; when absent the first to join gives it." }),
    keepMs: z
      .int()
      .min(1_000)
      .max(DAY_MS)
      .default(10 * MINUTE_MS)
      .meta({
        description: "How long it stays open although nobody comes. Once somebody has, its kind says how long.",
      }),
  })
  .meta({ id: "OpenRoom", description: "A room to open with nobody in it. The first to join is its host." });
export type OpenByOperator = z.infer<typeof OpenByOperator>;

export const OpenedRoom = z.object({ room: RoomView }).meta({ id: "OpenedRoom" });
export type OpenedRoom = z.infer<typeof OpenedRoom>;

export const ChangeByOperator = governingRequests["room.change"].args.meta({
  id: "ChangeRoom",
  description: "What is to be changed, as a merge patch (RFC 7396).",
});
export type ChangeByOperator = z.infer<typeof ChangeByOperator>;

export const PutInRoom = z.strictObject({ player: PlayerId, side: SideName.optional() }).meta({ id: "PutInRoom" });

export const ReadyMember = z
  .strictObject({ player: PlayerId, ready: z.boolean().default(true) })
  .meta({ id: "ReadyMember" });

export const EndRun = z.strictObject({ reason: Reason.optional() }).meta({ id: "EndRun" });

export const ReservedFor = z
  .union([z.strictObject({ account: AccountId }), z.strictObject({ player: PlayerId })])
  .meta({
    id: "ReservedFor",
    description: "Whom a place is kept for: an account, whether it is here or not, or a player.",
  });
export type ReservedFor = z.infer<typeof ReservedFor>;

export const ReservePlace = z
  .strictObject({
    for: ReservedFor,
    name: DisplayName.optional().meta({ description: "What members see the place kept for." }),
    side: SideName.optional(),
    forMs: z.int().min(1_000).max(DAY_MS).default(MINUTE_MS).meta({ description: "How long it is kept." }),
  })
  .meta({ id: "ReservePlace" });
export type ReservePlace = z.infer<typeof ReservePlace>;

export const CancelReservation = z.strictObject({ for: ReservedFor }).meta({ id: "CancelReservation" });

export const ReservationList = z
  .object({
    reservations: z.array(
      z.object({ for: ReservedFor, name: z.string().optional(), side: SideName.optional(), untilMs: AtMs }),
    ),
  })
  .meta({ id: "ReservationList", description: "The places that a room keeps, with whom they are kept for." });
export type ReservationList = z.infer<typeof ReservationList>;
