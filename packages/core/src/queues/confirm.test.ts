import { describe, expect, it } from "vitest";
import { Harbor } from "../harbor/harbor.ts";
import { testRules } from "../testing/rules.ts";
import { pairOfRules, search, ticketOf, told } from "../testing/searching.ts";
import { TestHarbor } from "../testing/test-harbor.ts";
import { explainMatch, explainTicket } from "./explain.ts";

/** Players who search in the queue that asks, and are asked. */
function asked(names: readonly string[] = ["Ansel", "Brisa"], test = new TestHarbor()) {
  const players = names.map((name) => test.connect(name));
  for (const player of players) search(test, player, 1_000, { queue: "confirming-pairs" });
  test.pass(500);
  const [one = "", other = "", ...more] = players;
  const match = ticketOf(test, one)?.asked ?? "none";
  const answer = (player: string, accept: boolean) => test.ok({ do: "queue.confirm", player, args: { match, accept } });
  return { test, one, other, more, match, answer };
}

const again = (test: TestHarbor, player: string) => search(test, player, 1_000, { queue: "confirming-pairs" });
const kinds = (test: TestHarbor, player: string) => told(test, player).map(({ kind }) => kind);

describe("a match whose players are asked", () => {
  it("becomes a room once all have accepted, and everybody sees who has", () => {
    const { test, one, other, match, answer } = asked();
    const untilMs = test.now + 9_500;
    const confirm = { match, untilMs, players: 2, accepted: [] };
    expect(told(test, other).at(-1)).toMatchObject({ ticket: { state: "confirming", confirm } });
    expect(test.harbor.view().queues["confirming-pairs"]).toMatchObject({ tickets: 0, confirming: 1, matches: 1 });
    answer(one, true);
    expect(told(test, other).at(-1)).toMatchObject({ ticket: { confirm: { accepted: [one] } } });
    expect(test.harbor.state.rooms.byId.size).toBe(0);
    // Once more changes nothing.
    answer(one, true);
    answer(other, true);
    const room = test.harbor.state.players.byId.get(one)?.room ?? "";
    expect(test.room(room)).toMatchObject({ phase: "travelling" });
    expect(kinds(test, other).slice(-2)).toEqual(["ticket-ended", "into-room"]);
    expect(test.harbor.state.queues.tickets.size).toBe(0);
  });

  it("comes to nothing when somebody declines, who waits before it may search again; the others keep their wait", () => {
    const { test, one, other, answer } = asked();
    const sinceMs = ticketOf(test, one)?.sinceMs;
    answer(one, true);
    test.pass(3_000);
    answer(other, false);
    expect(told(test, other).at(-1)).toMatchObject({ kind: "ticket-ended", cause: "declined" });
    expect(told(test, one).at(-1)).toMatchObject({ kind: "ticket-changed", ticket: { state: "searching", sinceMs } });
    // The time of asking does not count against its search.
    expect(ticketOf(test, one)?.untilMs).toBe((sinceMs ?? 0) + 30_000 + 3_500);
    expect(again(test, other).refused).toMatchObject({
      code: "search-too-soon",
      detail: expect.stringContaining("in 2 s"),
    });
    test.pass(2_000);
    expect(again(test, other).refused).toBeUndefined();
  });

  it("pauses who declines again for longer, until it has played or long enough ago", () => {
    const { test, one, other, answer } = asked();
    answer(other, false);
    test.pass(2_000);
    again(test, other);
    test.pass(500);
    const second = ticketOf(test, other)?.asked ?? "";
    test.ok({ do: "queue.confirm", player: other, args: { match: second, accept: false } });
    expect(again(test, other).refused?.detail).toMatch(/2 matches in a row .* in 20 s/);
    test.pass(20_000 + 60_001);
    again(test, one);
    again(test, other);
    test.pass(500);
    const third = ticketOf(test, other)?.asked ?? "";
    test.ok({ do: "queue.confirm", player: other, args: { match: third, accept: false } });
    expect(test.harbor.state.queues.pauses.get(other)).toMatchObject({ times: 1 });
  });

  it("counts silence as no; who accepted and lost the connection meanwhile is kept, and not paused", () => {
    const { test, one, other, answer } = asked();
    answer(one, true);
    test.run({ do: "player.lose", player: one, connection: 1 });
    answer(other, true);
    expect(test.harbor.state.rooms.byId.size).toBe(0);
    // Back in time, with everybody's answer there.
    test.resume(one);
    expect(test.harbor.state.players.byId.get(one)?.room).not.toBeNull();

    const silent = asked();
    silent.answer(silent.one, true);
    silent.test.pass(10_000);
    expect(told(silent.test, silent.other).at(-1)).toMatchObject({ cause: "not-confirmed" });
    expect(ticketOf(silent.test, silent.one)).toMatchObject({ held: false });
    expect(again(silent.test, silent.other).refused?.code).toBe("search-too-soon");
  });

  it("is let go of by cancelling, by going into a room and by leaving", () => {
    const cancelled = asked();
    cancelled.test.ok({ do: "queue.cancel", player: cancelled.one, args: {} });
    expect(again(cancelled.test, cancelled.one).refused?.code).toBe("search-too-soon");
    expect(ticketOf(cancelled.test, cancelled.other)).toMatchObject({ held: false });

    const elsewhere = asked();
    elsewhere.test.ok({ do: "room.open", player: elsewhere.one, args: {} });
    expect(told(elsewhere.test, elsewhere.one).at(-1)).toMatchObject({ cause: "went-elsewhere" });

    const gone = asked();
    gone.test.ok({ do: "player.leave", player: gone.one });
    expect(ticketOf(gone.test, gone.other)).toMatchObject({ held: false });
    expect(gone.test.harbor.state.queues.pauses.size).toBe(0);
  });

  it("takes the whole party of who declines out, and asks all of a party", () => {
    const test = new TestHarbor(pairOfRules());
    const [ansel = "", brisa = "", corin = "", dovie = ""] = ["Ansel", "Brisa", "Corin", "Dovie"].map((name) =>
      test.connect(name),
    );
    search(test, ansel, 1_000, { queue: "confirming-pairs", with: [brisa] });
    test.ok({
      do: "queue.agree",
      player: brisa,
      args: { ticket: ticketOf(test, ansel)?.id ?? "", attributes: { skill: 1 + 999 } },
    });
    for (const player of [corin, dovie]) search(test, player, 1_000, { queue: "confirming-pairs" });
    test.pass(500);
    const match = ticketOf(test, brisa)?.asked ?? "";
    test.ok({ do: "queue.confirm", player: brisa, args: { match, accept: false } });
    expect([ansel, brisa].map((player) => ticketOf(test, player))).toEqual([undefined, undefined]);
    expect(ticketOf(test, corin)?.asked).toBeUndefined();
    // Only who declined is to wait.
    expect(search(test, ansel, 1_000, { queue: "confirming-pairs" }).refused).toBeUndefined();
    expect(test.refusal({ do: "queue.confirm", player: corin, args: { match, accept: true } }).code).toBe("match-gone");
  });

  it("is still asked about after a restart, with the whole time to answer", () => {
    const { test, one, other, match } = asked();
    test.now += 60_000;
    Object.assign(test, { harbor: Harbor.fromSnapshot(testRules(), test.harbor.snapshot()) });
    test.ok({ do: "harbor.recover" });
    test.pass(0);
    for (const player of [one, other]) test.resume(player);
    expect(ticketOf(test, one)?.asked).toBe(match);
    for (const player of [one, other]) test.ok({ do: "queue.confirm", player, args: { match, accept: true } });
    expect(test.harbor.state.players.byId.get(one)?.room).not.toBeNull();
  });

  it("is explained while it is asked about", () => {
    const { test, one, other, match, answer } = asked();
    answer(one, true);
    const { state, rules } = test.harbor;
    expect(explainMatch(state, match)?.text.join(" ")).toContain(
      "1 of 2 players have accepted; Brisa has not answered",
    );
    const why = explainTicket(state, rules, ticketOf(test, other)?.id ?? "", test.now);
    expect(why?.text.join(" ")).toContain(`Match ${match} was found`);
  });
});

describe("whoever comes back while a match is confirmed", () => {
  it("has not accepted by that: its own word is still waited for", () => {
    const { test, one, other, match, answer } = asked();
    answer(one, true);
    test.run({ do: "player.lose", player: other, connection: 1 });
    test.resume(other);
    expect(test.harbor.state.queues.matches.get(match)?.asking?.accepted).toEqual([one]);
    answer(other, true);
    expect(test.harbor.state.queues.matches.get(match)?.asking).toBeUndefined();
  });
});

describe("an invitation to search", () => {
  it("keeps nobody from searching alone: the party that asked is told that it was turned down", () => {
    const test = new TestHarbor(pairOfRules());
    const [ansel, brisa] = ["Ansel", "Brisa"].map((name) => test.connect(name)) as [string, string];
    search(test, ansel, 1_000, { with: [brisa] });
    expect(search(test, brisa, 1_000).refused).toBeUndefined();
    expect(told(test, ansel).at(-1)).toMatchObject({ kind: "ticket-ended", cause: "not-agreed" });
    expect(ticketOf(test, ansel)).toBeUndefined();
    expect(ticketOf(test, brisa)).toMatchObject({ leader: brisa, players: [{ id: brisa, agreed: true }] });
    // Who has agreed is searching, and may not be in two searches.
    expect(search(test, brisa, 1_000).refused?.code).toBe("already-searching");
  });
});
