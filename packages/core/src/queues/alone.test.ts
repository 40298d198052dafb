import { describe, expect, it } from "vitest";
import { newDeadlines, nextDeadline, takeDue } from "../deadlines/index.ts";
import type { QueuesContext } from "../model/decision.ts";
import { deriveFrom } from "../model/derived.ts";
import type { DueKind } from "../model/due.ts";
import type { QueueCommand } from "../model/queues/commands.ts";
import type { QueueEvent } from "../model/queues/events.ts";
import { newQueuesState } from "../model/queues/state.ts";
import { newRatingsState } from "../model/ratings/state.ts";
import { newRoomsState } from "../model/rooms/state.ts";
import type { PlayerSeen } from "../model/seen.ts";
import { randomFrom } from "../model/stamp.ts";
import type { QueuesPart } from "../model/state.ts";
import { testRules } from "../testing/rules.ts";
import { applyQueue } from "./apply.ts";
import { decideQueue } from "./decide.ts";

/** Queues with no players, rooms or instances beside them: what they see of those is said here. */
function queuesAlone(players: readonly PlayerSeen[]) {
  const byId = new Map(players.map((one) => [one.id, one]));
  const queues = newQueuesState();
  const { waiting, queueCounts } = deriveFrom(queues, newRoomsState());
  const state: QueuesPart = {
    queues,
    ratings: newRatingsState(),
    deadlines: newDeadlines<DueKind>(),
    derived: { waiting, queueCounts },
    seen: {
      rooms: {
        player: (id) => byId.get(id),
        room: () => undefined,
        partyOf: () => undefined,
        travel: () => undefined,
        countingDown: () => [],
        resultOf: () => undefined,
        owedPass: () => undefined,
      },
      pools: {
        instance: () => undefined,
        heldBy: () => undefined,
        vacancyOf: () => ({ all: 1, byRegion: new Map() }),
        whyFull: () => "it is full",
      },
    },
  };
  let [at, stamps] = [1_000_000, 0];
  const run = (command: QueueCommand): QueueEvent[] => {
    stamps += 1;
    const context: QueuesContext = { state, rules: testRules(), at, random: randomFrom([stamps, 7, 11, 13]) };
    const decision = decideQueue(context, command);
    if ("refused" in decision) throw new Error(decision.refused.detail);
    const events = decision.events as QueueEvent[];
    for (const event of events) applyQueue(state, event, at);
    return events;
  };
  return {
    state,
    run,
    put: (player: PlayerSeen) => void byId.set(player.id, player),
    /** The next deadline of the queues, and what it has them do. */
    wait: () => {
      at = nextDeadline(state.deadlines)?.at ?? at;
      return takeDue(state.deadlines, at)?.kind;
    },
  };
}

const player = (n: number, more: Partial<PlayerSeen> = {}): PlayerSeen => ({
  id: `p_00000000000${n}`,
  name: `Player ${n}`,
  build: "game-1",
  lobby: "quayside",
  presence: "here",
  room: null,
  identity: null,
  ...more,
});

const search = (n: number) =>
  ({
    do: "queue.join",
    player: `p_00000000000${n}`,
    args: { queue: "pairs", attributes: { skill: 1_000 } },
  }) as const;

describe("queues by themselves", () => {
  it("match two who search, knowing of players only what they are told", () => {
    const { run, wait, state } = queuesAlone([player(1), player(2)]);
    run(search(1));
    run(search(2));
    expect(wait()).toBe("queue-pass");
    const [matched] = run({ do: "queue.pass", queue: "pairs" });
    expect(matched).toMatchObject({ kind: "queue.matched", sides: [["p_000000000001"], ["p_000000000002"]] });
    expect(state.queues.tickets.size).toBe(0);
  });

  it("hold the ticket of who is away, and go by what they are told next", () => {
    const { run, put, state } = queuesAlone([player(1)]);
    run(search(1));
    put(player(1, { presence: "away" }));
    expect(run({ do: "queue.check-presence", player: "p_000000000001" })).toMatchObject([{ held: true }]);
    put(player(1));
    expect(run({ do: "queue.check-presence", player: "p_000000000001" })).toMatchObject([{ held: false }]);
    expect(state.queues.tickets.size).toBe(1);
  });

  it("take nobody who is in a room by what they are told", () => {
    const { run } = queuesAlone([player(1, { room: "r_000000000001" })]);
    expect(() => run(search(1))).toThrow("You are in a room; leave it before searching.");
  });
});
