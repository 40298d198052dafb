import { describe, expect, it } from "vitest";
import type { MatchRules } from "../matching/index.ts";
import { boardAll, bringUp, instanceOf } from "../testing/scenes.ts";
import { pairOfRules, ticketOf } from "../testing/searching.ts";
import { TestHarbor } from "../testing/test-harbor.ts";
import { explainMatch } from "./explain.ts";

const LINE_UP: MatchRules["lineUp"] = {
  attribute: "roles",
  perSide: [
    { role: "mason", count: 1 },
    { role: "tidekeeper", count: 1 },
  ],
};

/** Two against two with a line-up, and a queue that fills its rooms up. */
function lineUpRules() {
  const rules = pairOfRules();
  const queues = [...rules.queues].map(([id, queue]) => {
    const confirm = null;
    return [id, { ...queue, confirm, whenLeft: "backfill", match: { ...queue.match, lineUp: LINE_UP } }] as const;
  });
  return { ...rules, queues: new Map(queues) };
}

const TAKES: Readonly<Record<string, readonly string[]>> = {
  Ansel: ["mason", "tidekeeper"],
  Brisa: ["mason"],
  Corin: ["tidekeeper"],
  Dovie: ["mason", "tidekeeper"],
};

const join = (test: TestHarbor, player: string, roles: readonly string[], more: object = {}) =>
  test.ok({
    do: "queue.join",
    player,
    args: { queue: "pairs", attributes: { skill: 1_000, roles: [...roles] }, ...more },
  });

function playing() {
  const test = new TestHarbor(lineUpRules());
  const players = new Map(Object.keys(TAKES).map((name) => [name, test.connect(name)]));
  for (const [name, player] of players) join(test, player, TAKES[name] ?? []);
  test.pass(500);
  const [ansel = ""] = players.values();
  const room = test.harbor.state.players.byId.get(ansel)?.room ?? "";
  bringUp(test, room);
  return { test, room, players };
}

const assigned = (test: TestHarbor) =>
  test.appliedEvents.flatMap(({ event }) => (event.kind === "instance.assigned" ? [event.match] : [])).at(-1);

describe("the roles of a line-up", () => {
  it("are filled on each side, by those who take them, and told to members, in the match and to the instance", () => {
    const { test, room, players } = playing();
    const members = [...test.room(room).members.values()];
    for (const side of ["north", "south"]) {
      const roles = members.filter((one) => one.side === side).map(({ role }) => role);
      expect(roles.sort()).toEqual(["mason", "tidekeeper"]);
    }
    for (const [name, id] of players) expect(TAKES[name]).toContain(test.room(room).members.get(id)?.role);
    const brisa = players.get("Brisa") ?? "";
    expect(test.views.get(brisa)?.room?.members[brisa]?.role).toBe("mason");
    const match = assigned(test);
    expect(match?.players.map(({ role }) => role).sort()).toEqual(["mason", "mason", "tidekeeper", "tidekeeper"]);
    expect(match?.players.map(({ side }) => side).sort()).toEqual(["north", "north", "south", "south"]);
    const { text, match: seen } = explainMatch(test.harbor.state, match?.match?.id ?? "") ?? {};
    expect(text?.join(" ")).toMatch(/Side 1: .*\((mason|tidekeeper)\)/);
    expect(seen?.roles?.[brisa]).toBe("mason");
  });

  it("stay with those who play on: whoever fills the place up takes the one that is open", () => {
    const { test, room, players } = playing();
    boardAll(test, room);
    const brisa = players.get("Brisa") ?? "";
    const side = test.room(room).members.get(brisa)?.side;
    test.ok({ do: "room.leave", player: brisa, args: {} });
    const edda = test.connect("Edda");
    join(test, edda, ["mason", "tidekeeper"]);
    test.pass(500);
    expect(test.room(room).members.get(edda)).toMatchObject({ role: "mason", side });
    const added = test.appliedEvents.flatMap(({ event }) => (event.kind === "instance.berth-added" ? [event] : []));
    expect(added.at(-1)?.player).toMatchObject({ id: edda, role: "mason", side });
  });

  it("are not taken by somebody who has another", () => {
    const { test, room, players } = playing();
    boardAll(test, room);
    test.ok({ do: "room.leave", player: players.get("Brisa") ?? "", args: {} });
    const edda = test.connect("Edda");
    join(test, edda, ["tidekeeper"]);
    test.pass(500);
    expect(ticketOf(test, edda)).toBeDefined();
  });
});

describe("the match that an instance is given", () => {
  it("says the kind, the host, the settings, the queue's match and who searched together", () => {
    const { test, room } = playing();
    const { host, settings } = test.room(room);
    expect(assigned(test)).toMatchObject({
      room,
      kind: "sided",
      host,
      settings,
      match: { queue: "pairs", region: null, parties: [] },
    });
    expect(instanceOf(test, room)).not.toBe("none");
  });
});
