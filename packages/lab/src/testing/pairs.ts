import type { QueueRules } from "@yellow-harbor/core";
import type { TicketLine } from "../traffic.ts";

/** One against one, by skill, in one region. */
export const pairs: QueueRules = {
  title: "Crews",
  lobby: "quayside",
  roomKind: "crews",
  searchMs: 60_000,
  passEveryMs: 500,
  vouched: [],
  confirm: null,
  whenLeft: "play-on",
  rating: null,
  leavers: null,
  backfill: { withinMs: 60_000, max: 4 },
  match: {
    sides: { count: 2, min: 1, max: 1, uneven: false },
    party: { max: 1, together: true },
    needs: [{ attribute: "build", must: "equal" }],
    closeness: [
      {
        attribute: "skill",
        party: "mean",
        weight: 1,
        gap: [
          [0, 50],
          [10, 300],
        ],
      },
    ],
    latency: { regions: ["north-quay"], ceilingMs: [[0, 80]] },
    lineUp: null,
    fewer: [],
    choose: { by: "oldest" },
    prefer: [],
    priority: null,
  },
};

/** A ticket of one player. */
export const ticketLine = (ticket: string, at: number, skill: unknown, more: Partial<TicketLine> = {}): TicketLine => ({
  at,
  ticket,
  attributes: { build: "b1" },
  players: [{ id: `p-${ticket}`, attributes: { skill: skill as number }, latencyMs: { "north-quay": 20 } }],
  ...more,
});
