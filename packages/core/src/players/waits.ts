import type { DueKind } from "../model/due.ts";
import type { RoomsPart } from "../model/state.ts";

/** What of the players waits for a time. */
export const playersWaiting = ({ players }: RoomsPart): [kind: DueKind, subject: string][] =>
  [...players.byId.values()].filter(({ presence }) => presence === "away").map(({ id }) => ["player-grace", id]);
