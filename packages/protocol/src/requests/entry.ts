import { z } from "zod";
import { AccountId } from "../accounts.ts";
import { ConfigName, RoomCode, RoomId, SideName } from "../ids.ts";
import { CAPACITY_MAX, CAPACITY_MIN, SETTINGS_MAX } from "../limits.ts";
import { Settings } from "../settings.ts";
import { DisplayName, RoomPassword } from "../text.ts";
import { LobbyView, RoomView, Visibility } from "../views.ts";
import { Nothing } from "./shapes.ts";

/** The room one wants: what an open one has to have, and what a new one is opened with. */
const roomWish = {
  kind: ConfigName.optional().meta({
    description: "Room kind; when absent the lobby's first one, or the first that has the level.",
  }),
  level: ConfigName.optional().meta({ description: "Level it is to play, where its host picks levels." }),
  settings: Settings.refine(
    (wanted) => Object.keys(wanted).length <= SETTINGS_MAX,
    `expected at most ${SETTINGS_MAX} settings`,
  )
    .optional()
    .meta({ description: "Free settings it is to have, each with exactly this value." }),
  visibility: Visibility.optional().meta({ description: "Who may join a new one; anybody when absent." }),
  region: ConfigName.optional().meta({
    description: "Region it plays in, on an instance there; any when absent, the nearest that has place first.",
  }),
  name: DisplayName.optional().meta({ description: "Name of a new one; made from the host's when absent." }),
  capacity: z.int().min(CAPACITY_MIN).max(CAPACITY_MAX).optional().meta({ description: "Places of a new one." }),
};

/** The same for one that is opened, or found by its name. */
export const openWish = {
  ...roomWish,
  variant: ConfigName.optional().meta({
    description: "Variant of the room kind: its values hold unless `settings` says others.",
  }),
};

const Move = z
  .boolean()
  .optional()
  .meta({ description: "Leave the room one is in for it; without, being in a room is refused." });

const Alone = z
  .boolean()
  .optional()
  .meta({ description: "Leave one's party behind; without, those of it who go along come in as well." });

const Said = RoomPassword.optional().meta({ description: "The room's password, where it has one." });

const Friend = AccountId.meta({ description: "Account of somebody one knows: into the room that it is in." });

const Side = SideName.optional().meta({ description: "Side to stand on; the one with the fewest when absent." });

/** Into a room and out of it. */
export const entryRequests = {
  "room.open": {
    summary: "Open a room and become its host.",
    args: z.strictObject({
      ...openWish,
      password: RoomPassword.optional().meta({
        description: "Whoever joins has to say it, but for those who are invited.",
      }),
      move: Move,
      alone: Alone,
    }),
    reply: z.object({ room: RoomView }),
  },
  "room.join": {
    summary:
      "Join a room by its id, by its code, or by following somebody one knows. The reply is the complete state of the room.",
    args: z.union([
      z.strictObject({ room: RoomId, password: Said, side: Side, move: Move, alone: Alone }),
      z.strictObject({ code: RoomCode, password: Said, side: Side, move: Move, alone: Alone }),
      z.strictObject({ friend: Friend, password: Said, side: Side, move: Move, alone: Alone }),
    ]),
    reply: z.object({ room: RoomView }),
  },
  "room.join-or-open": {
    summary: "Join the listed room of that name in one's lobby; open it when there is none.",
    args: z.strictObject({ ...openWish, name: DisplayName, move: Move, alone: Alone }),
    reply: z.object({ room: RoomView, opened: z.boolean() }),
  },
  "room.quick-join": {
    summary: "Join the best open room of one's lobby, in the lobby's order of preference; else open one.",
    args: z.strictObject({ ...roomWish, move: Move, alone: Alone }),
    reply: z.object({ room: RoomView, opened: z.boolean() }),
  },
  "room.watch": {
    summary:
      "Look on: by the id of a room, by its code, or by following somebody one knows. As a member of the room, give one's place up for that while it gathers. With `room.join` a spectator becomes a member.",
    args: z.union([
      z.strictObject({ room: RoomId, password: Said, move: Move }),
      z.strictObject({ code: RoomCode, password: Said, move: Move }),
      z.strictObject({ friend: Friend, password: Said, move: Move }),
    ]),
    reply: z.object({ room: RoomView }),
  },
  "room.leave": {
    summary: "Leave the room; back to its lobby.",
    args: Nothing,
    reply: z.object({ lobby: LobbyView }),
  },
} as const satisfies Record<string, { summary: string; args: z.ZodType; reply: z.ZodType }>;
