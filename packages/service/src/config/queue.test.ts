import { describe, expect, it } from "vitest";
import { TEST_CONFIG } from "../testing/test-service.ts";
import { parseConfig } from "./load.ts";

const faultsIn = (more: string) => {
  const parsed = parseConfig(
    TEST_CONFIG().concat(`
queues:
  pairs:
    title: Pairs
    lobby: quayside
    roomKind: crews
    sides: { count: 2, max: 1 }
${more}`),
  );
  return parsed.ok ? [] : parsed.faults.map(({ path, message }) => `${path} ${message}`);
};

const skill = "    closeness: [{ attribute: skill, gap: [[0, 400]] }]";

describe("a queue that chooses by price", () => {
  it("needs to know what waiting makes up for, and something that waiting makes up for", () => {
    expect(faultsIn(`${skill}\n    choose: { by: price, allowance: [[0, 0], [60, 400]] }`)).toEqual([]);
    expect(faultsIn(`${skill}\n    choose: { by: price }`)).toEqual([
      "queues.pairs.choose.allowance expected an allowance with by: price, such as [[0, 0], [60, 400]], and none otherwise",
    ]);
    expect(faultsIn(`${skill}\n    choose: { allowance: [[0, 0], [60, 400]] }`).join()).toContain("none otherwise");
    expect(faultsIn(`${skill}\n    choose: { by: price, allowance: [[0, 0], [60, 0]] }`)).toEqual([
      "queues.pairs.choose.allowance ends at 0 points: no match with any spread would ever be made",
    ]);
    expect(faultsIn(`${skill}\n    choose: { by: price, allowance: [[0, 50], [60, 10]] }`).join()).toContain(
      "falls from 50 to 10 at 60 s",
    );
    expect(faultsIn("    choose: { by: price, allowance: [[0, 0], [60, 400]] }")).toEqual([
      "queues.pairs.choose.by needs a closeness or a preference with a weight: without one every match has the score 0, and nothing is waited for",
    ]);
  });
});

describe("a queue whose matches become rooms", () => {
  it("is refused when its smallest match could not be played in them", () => {
    const text = TEST_CONFIG()
      .replace("  crews: { capacity", "  crews: { minPlayers: 3, capacity")
      .concat(`
queues:
  pairs: { title: Pairs, lobby: quayside, roomKind: crews, sides: { count: 2, max: 2 }, fewer: [{ afterMs: 9000, min: 1 }] }
`);
    const parsed = parseConfig(text);
    expect(parsed.ok ? [] : parsed.faults.map(({ path, message }) => `${path} ${message}`)).toEqual([
      "queues.pairs.roomKind a match may have 2 players, and rooms of crews play with 3 at least",
    ]);
  });
});

describe("a queue that rates", () => {
  it("fills in what is not said, and refuses what is no rating", () => {
    expect(faultsIn("    rating: { attribute: skill }")).toEqual([]);
    expect(faultsIn("    rating: { attribute: skill, tau: 9 }").join()).toContain("queues.pairs.rating.tau");
    expect(faultsIn("    rating: {}").join()).toContain("queues.pairs.rating.attribute");
  });
});

describe("a queue with priority and preferences", () => {
  it("looks at what is vouched for alone, and names no preference twice", () => {
    const priority = "    priority: { attribute: tier, headStartMs: { gold: 20000 } }";
    expect(faultsIn(`    vouched: [tier]\n${priority}`)).toEqual([]);
    expect(faultsIn(priority)).toEqual([
      "queues.pairs.priority.attribute tier is not among vouched: anybody could claim it; add it there",
    ]);
    const device = "{ attribute: device, must: equal, weight: 40 }";
    expect(faultsIn(`    prefer: [${device}, ${device}]`)).toEqual([
      "queues.pairs.prefer.1.attribute device is named twice",
    ]);
  });
});
