import type { DueKind } from "../model/due.ts";
import type { RoomsPart } from "../model/state.ts";
import { waitsForIdle } from "./entry/idleness.ts";

/** What of the rooms waits for a time. */
export const roomsWaiting = ({ rooms }: RoomsPart): [kind: DueKind, subject: string][] => [
  ...[...rooms.byId.values()].filter(waitsForIdle).map(({ id }): [DueKind, string] => ["room-idle", id]),
  ...[...rooms.byId.values()].flatMap(({ id, stage: { phase }, policy }): [kind: DueKind, subject: string][] => {
    if (phase === "playing" && policy.playMs > 0) return [["room-play", id]];
    if (phase === "counting") return [["room-countdown", id]];
    return phase === "results" ? [["room-results", id]] : [];
  }),
];
