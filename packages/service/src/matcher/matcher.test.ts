import type { Command, LookForMatches, MatchRules, SearchingParty } from "@yellow-harbor/core";
import pino from "pino";
import { afterEach, describe, expect, it } from "vitest";
import { Matcher } from "./matcher.ts";

const rules: MatchRules = {
  sides: { count: 2, min: 1, max: 1, uneven: false },
  party: { max: 1, together: true },
  needs: [],
  closeness: [{ attribute: "skill", gap: [[0, 100]], party: "mean", weight: 1 }],
  latency: null,
  lineUp: null,
  fewer: [],
  choose: { by: "oldest" },
  prefer: [],
  priority: null,
};

const party = (ticket: string, skill: number): SearchingParty => ({
  ticket,
  sinceMs: 0,
  players: [{ id: `p-${ticket}`, attributes: { skill } }],
});

const look = (more: Partial<LookForMatches>): LookForMatches => ({
  effect: "look-for-matches",
  look: "q1",
  queue: "pairs",
  went: [],
  came: [],
  atMs: 1_000,
  max: 8,
  rooms: undefined,
  ...more,
});

const open: Matcher[] = [];
afterEach(async () => {
  await Promise.all(open.splice(0).map((matcher) => matcher.close()));
});

/** A matcher, and each command that it gives when it comes. */
function scene() {
  const given: Command[] = [];
  let heard = () => {};
  const runtime = {
    ask: async (command: Command) => {
      given.push(command);
      heard();
      return { reply: { made: 0, refused: 0 } };
    },
  };
  const took: number[] = [];
  const looked = (_queue: string, tookMs: number) => void took.push(tookMs);
  const matcher = new Matcher({ runtime: runtime as never, log: pino({ level: "silent" }), looked });
  open.push(matcher);
  const next = async (): Promise<Command> => {
    while (given.length === 0) await new Promise<void>((resolve) => (heard = resolve));
    return given.shift() as Command;
  };
  return { matcher, next, took };
}

describe("the matcher's thread", () => {
  it("is started with the first look, knows what it was told, and proposes what it finds", async () => {
    const { matcher, next, took } = scene();
    expect(matcher.threadId).toBeUndefined();
    matcher.carryOut(look({ rules, came: [party("t1", 1_000), party("t2", 5_000)] }));
    expect(await next()).toMatchObject({ do: "queue.propose", queue: "pairs", look: "q1", matches: [] });
    matcher.carryOut(look({ look: "q2", came: [party("t3", 1_050)] }));
    expect(await next()).toMatchObject({ look: "q2", matches: [{ tickets: ["t1", "t3"], score: 50 }] });
    matcher.carryOut(look({ look: "q3", went: ["t2"], came: [party("t4", 5_000)] }));
    expect(await next()).toMatchObject({ look: "q3", matches: [] });
    expect(took).toHaveLength(3);
  });

  it("is told of as lost when it ends, and another one takes its place, which has to be told everything", async () => {
    const { matcher, next } = scene();
    matcher.carryOut(look({ rules, came: [party("t1", 1_000)] }));
    await next();
    const first = matcher.threadId;
    // What no thread can be sent ends it as a fault of its own would.
    matcher.carryOut(look({ look: "q2", came: null as never }));
    expect(await next()).toEqual({ do: "queue.matcher-lost" });
    matcher.carryOut(look({ look: "q3", came: [party("t2", 1_000)] }));
    expect(await next()).toMatchObject({ do: "queue.propose", look: "q3", matches: [] });
    expect(matcher.threadId).not.toBe(first);
    matcher.carryOut(look({ look: "q4", rules, came: [party("t1", 1_000), party("t2", 1_000)] }));
    expect(await next()).toMatchObject({ look: "q4", matches: [{ tickets: ["t1", "t2"] }] });
  });
});
