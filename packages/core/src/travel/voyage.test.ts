import { beforeEach, describe, expect, it } from "vitest";
import { matchesOf } from "../model/pools/holds.ts";
import { joinRoom, openRoom } from "../testing/scenes.ts";
import { TestHarbor } from "../testing/test-harbor.ts";
import { explainTravel } from "./explain.ts";

let test: TestHarbor;
let ansel: string;
let brisa: string;
let room: string;
beforeEach(() => {
  test = new TestHarbor();
  ansel = test.connect("Ansel");
  brisa = test.connect("Brisa");
  room = openRoom(test, ansel, { capacity: 2 });
  joinRoom(test, room, brisa);
  start();
});

function start() {
  test.ok({ do: "room.pick-level", player: ansel, args: { level: "brine-gate" } });
  for (const player of [ansel, brisa]) test.ok({ do: "room.ready", player, args: { ready: true } });
  return test.run({ do: "room.start", player: ansel, args: {} });
}

const instanceOf = (id = room) => test.harbor.state.pools.byRoom.get(id) ?? "none";
const berth = (player: string) => matchesOf(test.instance(instanceOf()))[0]?.berths.get(player);
const run = () => test.room(room).run ?? "none";

function bringUp(instance = instanceOf()) {
  const { port } = test.instance(instance).address;
  test.ok({ do: "instance.spawned", instance, pid: 4242 });
  test.ok({ do: "instance.announce", instance, port, pid: 4242 });
  test.ok({ do: "instance.probed", instance, reached: true, detail: "reached" });
}
const acknowledge = (instance = instanceOf()) =>
  test.ok({ do: "instance.acknowledge", instance, acknowledged: test.instance(instance).instructionsGiven });
const board = (player: string) =>
  test.ok({ do: "instance.board", instance: instanceOf(), player, pass: berth(player)?.pass ?? "", run: run() });
const report = () =>
  test.ok({
    do: "instance.report",
    instance: instanceOf(),
    run: run(),
    note: "a draw",
    standings: [ansel, brisa].map((player) => ({ player, score: 7 })),
  });

describe("a travel", () => {
  it("tells the address only after announcement, probe and the instance's word that it has the match", () => {
    const instance = instanceOf();
    const address = () => test.views.get(brisa)?.room?.travel?.address;
    test.ok({ do: "instance.spawned", instance, pid: 4242 });
    test.ok({ do: "instance.announce", instance, port: 7500, pid: 4242 });
    expect(address()).toBeUndefined();
    test.ok({ do: "instance.probed", instance, reached: true, detail: "reached" });
    expect(address()).toBeUndefined();
    const { appliedEvents } = test.run({ do: "instance.acknowledge", instance, acknowledged: 1 });
    expect(address()).toEqual({ host: "127.0.0.1", port: 7500 });
    const passes = appliedEvents
      .flatMap(({ pushes }) => pushes)
      .flatMap((push) => (push.scope === "pass" ? [push] : []));
    expect(passes.map(({ to }) => to)).toEqual([ansel, brisa]);
    expect(new Set(passes.map(({ pass }) => pass.pass)).size).toBe(2);
  });

  it("is complete when the last one has boarded, and not before", () => {
    bringUp();
    acknowledge();
    board(ansel);
    expect(test.room(room).phase).toBe("travelling");
    expect(explainTravel(test.harbor.state, test.room(room), test.now).text[1]).toContain(
      "Brisa: has not told how far it has loaded",
    );
    board(brisa);
    expect(test.room(room).phase).toBe("playing");
  });

  it("admits a pass once, and only for its own run", () => {
    bringUp();
    acknowledge();
    const pass = berth(ansel)?.pass ?? "";
    const shown = { do: "instance.board", instance: instanceOf(), player: ansel, pass, run: run() } as const;
    expect(test.refusal({ ...shown, run: "u_000000000000" }).code).toBe("pass-expired");
    expect(test.refusal({ ...shown, pass: "b_000000000000" }).code).toBe("pass-replaced");
    test.ok({ ...shown, attempt: "first" });
    expect(test.refusal(shown).code).toBe("pass-used");
    expect(test.refusal({ ...shown, attempt: "second" }).code).toBe("pass-used");
    const again = test.run({ ...shown, attempt: "first" });
    expect(again).toMatchObject({ reply: { player: { id: ansel } }, appliedEvents: [] });
  });

  it("ends in a result that clears readiness, and can be done again on the same instance", () => {
    bringUp();
    acknowledge();
    board(ansel);
    board(brisa);
    const first = instanceOf();
    const firstRun = run();
    report();
    expect(test.room(room)).toMatchObject({ phase: "gathering", run: null, result: { note: "a draw" } });
    expect(test.room(room).result?.standings.map((row) => row.rank)).toEqual([1, 1]);
    expect([...test.room(room).members.values()].some((member) => member.ready)).toBe(false);
    const again = { do: "instance.report", instance: first, run: firstRun, standings: [], note: undefined } as const;
    expect(test.refusal(again).code).toBe("result-known");
    start();
    expect(instanceOf()).toBe(first);
    acknowledge();
    board(ansel);
    board(brisa);
    expect(test.room(room).phase).toBe("playing");
  });

  it("refuses results of strangers, of others' runs, and before the run has begun", () => {
    bringUp();
    acknowledge();
    const instance = instanceOf();
    const result = { do: "instance.report", instance, run: run(), standings: [], note: undefined } as const;
    expect(test.refusal(result).code).toBe("wrong-phase");
    board(ansel);
    board(brisa);
    expect(test.refusal({ ...result, run: "u_000000000000" }).code).toBe("match-unknown");
    expect(test.refusal({ ...result, standings: [{ player: "p_000000000000", score: 1 }] }).fields?.[0]?.path).toBe(
      "standings[0].player",
    );
    const twice = [ansel, ansel].map((player) => ({ player, score: 1 }));
    expect(test.refusal({ ...result, standings: twice }).code).toBe("request-invalid");
  });

  it("lets the instance go when the room closes, politely first, then by force", () => {
    bringUp();
    const instance = instanceOf();
    for (const player of [ansel, brisa]) test.ask(player, { do: "room.leave", player, args: {} });
    expect(test.instance(instance)).toMatchObject({ state: "draining", holds: new Map() });
    expect(test.instance(instance).instructions.at(-1)).toMatchObject({ instruction: "stop" });
    test.pass(3_000);
    expect(test.instance(instance).why).toContain("signalled");
    test.pass(3_000);
    expect(test.instance(instance).why).toContain("killed");
    test.ok({ do: "instance.exited", instance, exitCode: null, signal: "SIGKILL" });
    expect(test.instance(instance)).toMatchObject({ state: "ended", signal: "SIGKILL", gone: true });
    test.pass(10_000);
    expect(test.harbor.state.pools.instances.has(instance)).toBe(false);
  });
});

describe("a travel that goes wrong", () => {
  it("tries another instance, on another port, when one does not come up", () => {
    const first = instanceOf();
    test.ok({ do: "instance.exited", instance: first, exitCode: 1, signal: null });
    const second = instanceOf();
    expect(second).not.toBe(first);
    expect(test.instance(second).address.port).toBe(7501);
    expect(test.instance(first)).toMatchObject({ state: "failed", why: "exited with code 1 without being asked to" });
    expect(test.room(room).phase).toBe("travelling");
  });

  it("returns to gathering with the reason when no attempt comes up", () => {
    for (let n = 0; n < 2; n++)
      test.ok({ do: "instance.start-failed", instance: instanceOf(), detail: "no such file", portTaken: false });
    expect(test.room(room)).toMatchObject({ phase: "gathering", run: null, setback: { code: "no-instance" } });
    expect(test.room(room).setback?.detail).toContain("no such file");
    expect(test.views.get(brisa)?.room?.setback?.code).toBe("no-instance");
  });

  it("gives up an instance that never announces itself, in time for another try", () => {
    const first = instanceOf();
    test.ok({ do: "instance.spawned", instance: first, pid: 4242 });
    test.pass(20_000);
    expect(test.instance(first)).toMatchObject({ state: "failed", why: "never announced itself" });
    expect(instanceOf()).not.toBe(first);
  });

  it("keeps what a member has told of its trouble in why the travel came to nothing", () => {
    bringUp();
    acknowledge();
    board(ansel);
    test.ok({ do: "travel.trouble", player: brisa, args: { run: run(), reason: "the disk is full" } });
    test.pass(30_000);
    expect(test.room(room).setback?.detail).toBe(
      "Brisa did not arrive within 30 s. Brisa cannot get there: the disk is full.",
    );
  });

  it("returns to gathering when somebody does not arrive in time", () => {
    bringUp();
    acknowledge();
    board(ansel);
    const instance = instanceOf();
    test.pass(30_000);
    expect(test.room(room)).toMatchObject({ phase: "gathering", setback: { code: "travel-deadline" } });
    expect(test.room(room).setback?.detail).toBe("Brisa did not arrive within 30 s.");
    expect(test.instance(instance).state).toBe("draining");
  });

  it("does not begin with fewer players than its room kind and its level ask for", () => {
    bringUp();
    acknowledge();
    board(ansel);
    test.ask(brisa, { do: "room.leave", player: brisa, args: {} });
    expect(test.room(room)).toMatchObject({
      phase: "gathering",
      setback: { code: "start-not-possible", detail: "Brisa has left, and a run needs 2 players." },
    });
  });

  it("goes on without who leaves while enough are left, and is complete when that was the last one missing", () => {
    const [corin, dovie, edda] = ["Corin", "Dovie", "Edda"].map((name) => test.connect(name)) as [
      string,
      string,
      string,
    ];
    const other = openRoom(test, corin, { capacity: 3 });
    for (const player of [dovie, edda]) joinRoom(test, other, player);
    test.ok({ do: "room.pick-level", player: corin, args: { level: "brine-gate" } });
    for (const player of [corin, dovie, edda]) test.ok({ do: "room.ready", player, args: { ready: true } });
    test.ok({ do: "room.start", player: corin, args: {} });
    const instance = instanceOf(other);
    bringUp(instance);
    acknowledge(instance);
    const berths = matchesOf(test.instance(instance))[0]?.berths;
    for (const player of [corin, dovie]) {
      const pass = berths?.get(player)?.pass ?? "";
      test.ok({ do: "instance.board", instance, player, pass, run: test.room(other).run ?? "" });
    }
    expect(test.room(other).phase).toBe("travelling");
    test.ask(edda, { do: "room.leave", player: edda, args: {} });
    expect(test.room(other).phase).toBe("playing");
  });

  it("ends the run without a result when the instance is lost in the middle of it", () => {
    bringUp();
    acknowledge();
    board(ansel);
    board(brisa);
    test.ok({ do: "instance.exited", instance: instanceOf(), exitCode: null, signal: "SIGSEGV" });
    expect(test.room(room)).toMatchObject({
      phase: "gathering",
      result: { void: true },
      setback: { code: "instance-lost" },
    });
  });

  it("is refused at once when the pool has no instance left to give", () => {
    const others = Array.from({ length: 6 }, (_, n) => test.connect(`Other ${n}`));
    for (let n = 0; n < 6; n += 2) {
      const [host = "", guest = ""] = others.slice(n, n + 2);
      const opened = test.ask(host, { do: "room.open", player: host, args: { capacity: 2 } }).reply as {
        room: { id: string };
      };
      test.ask(guest, { do: "room.join", player: guest, args: { room: opened.room.id } });
      test.ok({ do: "room.pick-level", player: host, args: { level: "brine-gate" } });
      for (const player of [host, guest]) test.ok({ do: "room.ready", player, args: { ready: true } });
      test.ok({ do: "room.start", player: host, args: {} });
      const { phase, setback } = test.room(opened.room.id);
      // Three ports, three instances: the fourth room comes away empty-handed and is told why.
      if (n < 4) expect(phase).toBe("travelling");
      else
        expect({ phase, detail: setback?.detail }).toEqual({
          phase: "gathering",
          detail: "Pool sluice runs 3 instances, the most it may; try again when a match has ended.",
        });
    }
  });

  it("leaves a port alone that a stranger listens on", () => {
    test.ok({ do: "instance.start-failed", instance: instanceOf(), detail: "port 7500 is taken", portTaken: true });
    expect(test.instance(instanceOf()).address.port).toBe(7501);
    // It says nothing of the travel, the pool or the build: nothing counts it.
    expect(test.harbor.state.travels.byRun.get(run())?.attempt).toBe(1);
    expect(test.harbor.state.plans.byPool.get("sluice")?.failures ?? 0).toBe(0);
    for (const player of [ansel, brisa]) test.ask(player, { do: "room.leave", player, args: {} });
    expect(test.harbor.state.pools.ports.get("127.0.0.1")?.get(7500)).toBe(test.now + 60_000);
  });
});

describe("an instance that speaks out of turn", () => {
  it("is refused when it has ended, names instructions never given, or another port", () => {
    const instance = instanceOf();
    expect(test.refusal({ do: "instance.announce", instance, port: 9999, pid: 1 }).code).toBe("request-invalid");
    expect(test.refusal({ do: "instance.acknowledge", instance, acknowledged: 5 }).code).toBe("instruction-unknown");
    test.ok({ do: "instance.exited", instance, exitCode: 0, signal: null });
    expect(test.refusal({ do: "instance.announce", instance, port: 7500, pid: 1 }).code).toBe("instance-ended");
    expect(test.refusal({ do: "instance.goodbye", instance: "i_000000000000", reason: "" }).code).toBe(
      "instance-unknown",
    );
  });
});

describe("a restart", () => {
  it("counts everybody as away with a full grace, and asks for what may not have been carried out", () => {
    const { effects } = test.run({ do: "harbor.recover" });
    expect(effects).toEqual([expect.objectContaining({ effect: "start-instance", instance: instanceOf() })]);
    expect([...test.room(room).members.values()].map(({ presence, awayUntilMs }) => [presence, awayUntilMs])).toEqual([
      ["away", test.now + 10_000],
      ["away", test.now + 10_000],
    ]);
    bringUp();
    expect(test.run({ do: "harbor.recover" }).effects).toEqual([
      { effect: "watch-instance", instance: instanceOf(), pid: 4242 },
    ]);
  });
});
