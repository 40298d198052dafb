import { followAttention, isInBackground } from "./attention.ts";
import type { PlayerEvents } from "./player-client-events.ts";
import type { PlayerState } from "./state.ts";

interface Player {
  readonly state: PlayerState;
  readonly isConnected: boolean;
  setBackground(background: boolean): Promise<unknown>;
  on<K extends keyof PlayerEvents>(kind: K, listener: (event: PlayerEvents[K]) => void): () => void;
}

/** Tells the room by itself when the game's page goes to the background, and when it is in front again. */
export function tellAttention(player: Player): void {
  const tell = (background: boolean) => {
    if (player.state.room && player.isConnected) player.setBackground(background).catch(() => undefined);
  };
  player.on("ended", followAttention(tell));
  // A room that is new to it, or that it comes back to, does not know.
  let room: string | undefined;
  player.on("change", ({ state, update }) => {
    if (update !== undefined && state.room?.id === room) return;
    room = state.room?.id;
    if (room !== undefined && isInBackground()) tell(true);
  });
}
