import type { Exported } from "../model/capability.ts";
import type { PlayerCommand } from "../model/players/commands.ts";
import type { PlayerEvent } from "../model/players/events.ts";
import { newPlayersState } from "../model/players/state.ts";
import { applyPlayer, befall, losePlayers, putInRoom } from "./apply.ts";
import { decidePlayer } from "./decide.ts";
import { describePlayer } from "./describe.ts";
import { playerViolations } from "./invariants.ts";
import { playersWaiting } from "./waits.ts";

/** Who is here, by which connection, and what befell whom. */
export const players = {
  names: ["player"],
  newState: () => ({ players: newPlayersState() }),
  decide: decidePlayer,
  apply: applyPlayer,
  describe: describePlayer,
  due: { "player-grace": (player) => ({ do: "player.give-up", player }) },
  waits: playersWaiting,
  invariants: playerViolations,
  /** What changes with an event of another capability. */
  also: { befall, lose: losePlayers, putInRoom },
} satisfies Exported<PlayerCommand, PlayerEvent>;
