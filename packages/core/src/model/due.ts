import type { Deadline } from "../deadlines/index.ts";

/** What can fall due, by capability. One that nothing else reads adds its own to it where it stands. */
export interface DueKinds {
  player: "player-grace";
  ban: "ban-end";
  lobby: "lobby-tally";
  party: "party-leader" | "party-invitation";
  room: `room-${"countdown" | "idle" | "results" | "play" | "host" | "turn" | "empty" | "reservation"}`;
  travel: "travel-step";
  queue: "queue-pass" | "ticket-end" | "match-confirm" | "backfill-end";
  plan: "plan-pool";
  machine: "machine-forget";
  fleet: "fleet-group" | "fleet-order";
  instance: `instance-${"boot" | "stop" | "kill" | "drain" | "run" | "empty" | "berths" | "forget"}`;
}

export type DueKind = DueKinds[keyof DueKinds];

export type Due = Deadline<DueKind>;
