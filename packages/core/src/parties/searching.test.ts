import { describe, expect, it } from "vitest";
import { invariantViolations } from "../harbor/invariants.ts";
import type { HarborRules } from "../model/rules.ts";
import { testRules } from "../testing/rules.ts";
import { foundParty } from "../testing/scenes.ts";
import { pairOfRules, search, ticketOf, told } from "../testing/searching.ts";
import { TestHarbor } from "../testing/test-harbor.ts";

const roomOf = (test: TestHarbor, player: string) => test.harbor.state.players.byId.get(player)?.room;

/** Pairs of parties of two, who look at latency as well. */
function withLatency(): HarborRules {
  const rules = pairOfRules();
  const latency = { regions: ["north-quay"], ceilingMs: [[0, 80]] as const };
  const queues = [...rules.queues].map(
    ([id, queue]) => [id, { ...queue, match: { ...queue.match, latency } }] as const,
  );
  return { ...rules, queues: new Map(queues) };
}

function gathered(rules: HarborRules = pairOfRules()) {
  const test = new TestHarbor(rules);
  const { party, players } = foundParty(test, "Ansel", "Brisa");
  const [ansel = "", brisa = ""] = players;
  const set = (player: string, skill: number) => test.ok({ do: "party.set", player, args: { attributes: { skill } } });
  return { test, party, ansel, brisa, set };
}

describe("a party that searches", () => {
  it("is one search with what each member brings, and nobody has to agree again", () => {
    const { test, party, ansel, brisa, set } = gathered();
    set(brisa, 1_040);
    const { ticket } = test.ok({
      do: "queue.join",
      player: ansel,
      args: { queue: "pairs", attributes: { skill: 1_000 } },
    });
    expect(ticket).toMatchObject({ state: "searching", players: [{ name: "Ansel" }, { name: "Brisa", agreed: true }] });
    expect(ticketOf(test, brisa)).toMatchObject({
      party,
      players: [{ attributes: { skill: 1_000 } }, { attributes: { skill: 1_040 } }],
    });
    expect(told(test, brisa).at(-1)).toMatchObject({ kind: "ticket-changed", ticket: { leader: ansel } });
  });

  it("becomes one side of a match, and stays together when that is over", () => {
    const { test, party, ansel, brisa, set } = gathered();
    const others = foundParty(test, "Corin", "Dovie").players;
    for (const player of [ansel, brisa, ...others]) set(player, 1_000);
    for (const leader of [ansel, others[0] ?? ""]) {
      test.ok({ do: "queue.join", player: leader, args: { queue: "pairs" } });
    }
    test.pass(500);
    const room = roomOf(test, ansel) ?? "";
    expect([brisa, ...others].map((one) => roomOf(test, one))).toEqual([room, room, room]);
    const members = test.room(room).members;
    expect(members.get(ansel)?.side).toBe(members.get(brisa)?.side);
    expect(told(test, ansel).at(-1)).toMatchObject({
      party: { members: [{ room: { id: room } }, { room: { id: room } }] },
    });
    test.ok({ do: "room.dissolve", room, reason: undefined, by: "operator" });
    expect(test.harbor.state.parties.byId.get(party)?.members.size).toBe(2);
    expect(invariantViolations(test.harbor.state)).toEqual([]);
  });

  it("is refused where a member has not said what the queue requires, by name", () => {
    const { test, ansel, brisa, set } = gathered(withLatency());
    const join = () =>
      test.run({
        do: "queue.join",
        player: ansel,
        args: { queue: "pairs", attributes: { skill: 1_000 }, latencyMs: { "north-quay": 20 } },
      }).refused;
    expect(join()).toMatchObject({ code: "attribute-missing", detail: expect.stringContaining("Brisa") });
    set(brisa, 1_000);
    test.ok({ do: "party.set", player: brisa, args: { latencyMs: { "north-quay": 70 } } });
    expect(join()).toBeUndefined();
    expect(ticketOf(test, brisa)?.players.map(({ latencyMs }) => latencyMs["north-quay"])).toEqual([20, 70]);
  });

  it("is searched for by its leader alone, while who stays behind searches for itself", () => {
    const { test, ansel, brisa, set } = gathered(testRules());
    set(brisa, 1_000);
    const refused = search(test, brisa, 1_000).refused;
    expect(refused).toMatchObject({ code: "not-party-leader", detail: expect.stringContaining("Ansel leads") });
    // The queue takes one at a time, and the party is two.
    expect(search(test, ansel, 1_000).refused?.code).toBe("party-too-large");
    expect(search(test, ansel, 1_000, { alone: true }).refused).toBeUndefined();
    test.ok({ do: "queue.cancel", player: ansel, args: {} });
    test.ok({ do: "party.set", player: brisa, args: { follows: false } });
    expect(search(test, brisa, 1_000).refused).toBeUndefined();
    expect(search(test, ansel, 1_000).refused).toBeUndefined();
    expect(ticketOf(test, ansel)?.party).toBeUndefined();
  });

  it("ends its search when a member leaves, the leader too, and the others are told by whom", () => {
    const { test, ansel, brisa, set } = gathered();
    set(brisa, 1_000);
    search(test, ansel, 1_000);
    test.ok({ do: "party.leave", player: ansel, args: {} });
    expect(told(test, brisa)).toContainEqual(
      expect.objectContaining({ kind: "ticket-ended", cause: "cancelled", detail: "Ansel has left the party." }),
    );
    expect(test.harbor.state.queues.tickets.size).toBe(0);
    expect(invariantViolations(test.harbor.state)).toEqual([]);
  });

  it("is kept and not matched while a member is away, also when it was away from the start", () => {
    const { test, ansel, brisa, set } = gathered();
    set(brisa, 1_000);
    test.run({ do: "player.lose", player: brisa, connection: 1 });
    expect(search(test, ansel, 1_000).reply).toMatchObject({ ticket: { state: "held" } });
    test.resume(brisa);
    expect(ticketOf(test, ansel)?.held).toBe(false);
  });

  it("is refused while a member is in a room or searches with others", () => {
    const { test, ansel, brisa, set } = gathered();
    set(brisa, 1_000);
    test.ok({ do: "room.open", player: brisa, args: {} });
    expect(search(test, ansel, 1_000).refused?.detail).toBe("Brisa is in a room; leave it before searching.");
  });
});
