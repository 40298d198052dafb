import type { QueueRules } from "@yellow-harbor/core";
import { describe, expect, it } from "vitest";
import { Conditions } from "./conditions.ts";
import { figuresOf } from "./figures.ts";
import { generate, TrafficPlan } from "./generate.ts";
import { linesOf, play } from "./play.ts";
import { ticketLine as line, pairs } from "./testing/pairs.ts";

const confirming: QueueRules = {
  ...pairs,
  confirm: { withinMs: 10_000, pausesMs: [10_000], forgetMs: 60_000 },
};

describe("conditions that traffic meets", () => {
  it("make no more matches than can be played, and the next when one ends", () => {
    const conditions = Conditions.parse({ capacity: { instances: 1, playS: { median: 20, spread: 0 } } });
    const tickets = [0, 1, 2, 3, 4, 5].map((n) => line(`t${n}`, n / 10, 1_000));
    const played = play(pairs, tickets, { conditions });
    expect(played.matches.map(({ at }) => at)).toEqual([0.5, 20.5, 40.5]);
    expect(played.fullPasses).toBeGreaterThan(70);
  });

  it("make two matches at once on an instance with two rooms", () => {
    const conditions = Conditions.parse({ capacity: { instances: 1, roomsEach: 2, playS: { median: 20, spread: 0 } } });
    const tickets = [0, 1, 2, 3, 4, 5].map((n) => line(`t${n}`, n / 10, 1_000));
    expect(play(pairs, tickets, { conditions }).matches.map(({ at }) => at)).toEqual([0.5, 0.5, 20.5]);
  });

  it("keep to the places of each region", () => {
    const capacity = { byRegion: { "north-quay": 0 }, playS: { median: 20, spread: 0 } };
    const played = play(pairs, [line("t1", 0, 1_000), line("t2", 0, 1_000)], {
      conditions: Conditions.parse({ capacity }),
    });
    expect(played.matches).toEqual([]);
    expect(played.endings.map(({ outcome }) => outcome)).toEqual(["expired", "expired"]);
  });

  it("let go of who does not confirm, and have the others search on with the wait they had", () => {
    const never = Conditions.parse({ confirm: { declines: 1, silent: 0, answerS: 0.5 } });
    const all = play(confirming, [line("t1", 0, 1_000), line("t2", 0, 1_000)], { conditions: never });
    expect(all).toMatchObject({ matches: [], undone: 1 });
    expect(all.endings.map(({ outcome }) => outcome)).toEqual(["declined", "declined"]);

    const half = Conditions.parse({ confirm: { declines: 0.5, silent: 0 } });
    const tickets = Array.from({ length: 40 }, (_, n) => line(`t${n}`, n / 2, 1_000));
    const some = play(confirming, tickets, { conditions: half, seed: 3 });
    const figures = figuresOf(tickets, some);
    expect(figures.undone).toBeGreaterThan(3);
    expect(figures.declined + figures.matched.tickets + figures.expired).toBe(40);
    // Whoever searched on was matched with all of its wait, not with that since the match that came to nothing.
    expect(Math.max(...some.waits)).toBeGreaterThan(1);
  });

  it("give the same for the same seed, and all accept at once where nothing is said of them", () => {
    const tickets = generate(confirming, TrafficPlan.parse({ minutes: 3 }), 5);
    const conditions = Conditions.parse({ noShows: 0.1, confirm: { declines: 0.1 } });
    const once = play(confirming, tickets, { conditions, seed: 8 });
    expect(linesOf(play(confirming, tickets, { conditions, seed: 8 }))).toBe(linesOf(once));
    expect(linesOf(play(confirming, tickets, { conditions, seed: 9 }))).not.toBe(linesOf(once));
    expect(once.short).toBeGreaterThan(0);
    expect(play(confirming, tickets)).toMatchObject({ undone: 0, short: 0, fullPasses: 0 });
  });
});
