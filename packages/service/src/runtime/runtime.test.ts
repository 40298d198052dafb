import { type Command, Harbor, type Listener, readEvent, type Stamp } from "@yellow-harbor/core";
import type { BoardingPass } from "@yellow-harbor/protocol";
import pino from "pino";
import { describe, expect, it, vi } from "vitest";
import { rulesOf } from "../config/rules.ts";
import { Tokens } from "../keys/tokens.ts";
import { HeldJournal } from "../testing/held-journal.ts";
import { testConfig } from "../testing/test-service.ts";
import { noMeter } from "./meter.ts";
import type { Settled } from "./outbox.ts";
import { HarborRuntime } from "./runtime.ts";
import { eventLoop } from "./scheduler.ts";
import { stampMaker } from "./stamps.ts";

/** A harbor whose core fails at a chosen place, when half of a change is applied. */
class FaultyHarbor extends Harbor {
  failsIn: "execute" | "advance" | "listener" | undefined;

  override execute<C extends Command>(command: C, stamp: Stamp, listener?: Listener) {
    const hear: Listener = (applied, at) => {
      if (this.failsIn === "listener") throw new Error("planted");
      listener?.(applied, at);
    };
    const outcome = super.execute(command, stamp, hear);
    if (this.failsIn === "execute") throw new Error("planted");
    return outcome;
  }

  override advance(...args: Parameters<Harbor["advance"]>) {
    if (this.failsIn === "advance") throw new Error("planted");
    return super.advance(...args);
  }
}

function start(snapshotEvery = 1_000, isHeld = () => true) {
  const journal = new HeldJournal();
  const said: string[] = [];
  const harbor = new FaultyHarbor(rulesOf(testConfig(), [1, 2, 3, 4]));
  const runtime = new HarborRuntime({
    harbor,
    lastSeq: 0,
    snapshots: {
      every: snapshotEvery,
      keepEvents: 1_000_000,
      keepBytes: 1_000_000_000,
      snapshots: journal,
      history: journal,
    },
    isHeld,
    stamp: stampMaker(() => 1_000),
    eventLog: journal,
    scheduler: eventLoop,
    tokens: new Tokens(new Uint8Array(32), "test", Date.now),
    log: pino({ level: "silent" }),
    meter: noMeter,
  });
  runtime.connect({
    push: (push) => said.push(`push ${push.update.kind}`),
    pass: (_player: string, _pass: BoardingPass) => said.push("pass"),
    isFollowed: () => false,
    areFriendsFollowed: () => false,
    friends: () => undefined,
    listing: () => undefined,
    happened: ({ kind }) => said.push(`happened ${kind}`),
    effect: ({ effect }) => said.push(`effect ${effect}`),
    failed: ({ what }) => said.push(`failed: ${what}`),
    flush: () => said.push("flush"),
  });
  const enter = (name: string) =>
    runtime.submit({ do: "player.connect", name, build: "game-1", lobby: undefined, connection: 1 }, (settled) =>
      said.push("refused" in settled ? settled.refused.code : `entered ${name}`),
    );
  return { journal, runtime, harbor, said, enter };
}

const turn = () => new Promise((resolve) => setImmediate(resolve));

describe("the runtime", () => {
  it("says nothing before it is durable, and then everything in order with one flush", async () => {
    const { journal, said, enter } = start();
    enter("Ansel");
    enter("Brisa");
    await journal.until(1);
    await turn();
    expect(said).toEqual([]);
    // Both came in one turn, so both are in one batch.
    expect(journal.batches[0]?.rows.map(({ seq, kind }) => [seq, kind])).toEqual([
      [1, "player.connected"],
      [2, "lobby.joined"],
      [3, "player.connected"],
      [4, "lobby.joined"],
    ]);
    journal.finish();
    await turn();
    expect(said).toEqual(["push player-arrived", "entered Ansel", "push player-arrived", "entered Brisa", "flush"]);
  });

  it.each(["execute", "listener"] as const)(
    "stops at once when the core throws in %s: nothing of it is written, and nothing is taken any more",
    async (place) => {
      const { journal, runtime, harbor, said, enter } = start();
      enter("Ansel");
      await journal.until(1);
      enter("Brisa");
      harbor.failsIn = place;
      enter("Corin");
      harbor.failsIn = undefined;
      enter("Dovie");
      // Of what was acknowledged to nobody nothing is kept; what was being written is told once it is.
      expect(said).toEqual(["service-halted", "flush", "failed: core", "service-halted", "service-halted"]);
      journal.finish();
      await turn();
      expect(said.slice(5)).toEqual(["push player-arrived", "entered Ansel", "flush"]);
      expect(journal.batches).toHaveLength(1);
      expect(runtime.failure).toMatchObject({ what: "core", error: { message: "player.connect: planted" } });
      await expect(runtime.query(() => 1)).rejects.toThrow("planted");
      await runtime.stop();
    },
  );

  it("stops as well when a deadline throws", async () => {
    const { journal, runtime, harbor, said, enter } = start();
    enter("Ansel");
    await journal.until(1);
    journal.finish();
    await turn();
    harbor.failsIn = "advance";
    runtime.submit(
      { do: "player.lose", player: [...harbor.state.players.byId.keys()][0] ?? "", connection: 1 },
      () => {},
    );
    await journal.until(2);
    journal.finish();
    await vi.waitUntil(() => runtime.failure !== undefined, { timeout: 30_000 });
    enter("Brisa");
    expect(said.at(-1)).toBe("service-halted");
  });

  it("takes nothing more once it has stopped, so that nothing is left to be written", async () => {
    const { journal, runtime, said, enter } = start();
    enter("Ansel");
    await journal.until(1);
    journal.finish();
    await runtime.stop();
    enter("Brisa");
    await turn();
    expect(said.at(-1)).toBe("shutting-down");
    expect(journal.batches).toHaveLength(1);
  });

  it("gathers what comes while a batch is being written into the next one", async () => {
    const { journal, said, enter } = start();
    enter("Ansel");
    await journal.until(1);
    for (const name of ["Brisa", "Corin", "Dovie"]) {
      enter(name);
      await turn();
    }
    expect(journal.batches).toHaveLength(1);
    journal.finish();
    await journal.until(2);
    expect(journal.batches[1]?.rows.filter(({ kind }) => kind === "player.connected")).toHaveLength(3);
    expect(said.filter((line) => line.startsWith("entered"))).toEqual(["entered Ansel"]);
    journal.finish();
    await turn();
    expect(said.filter((line) => line.startsWith("entered"))).toHaveLength(4);
  });

  it("answers a question only once what the answer shows is durable", async () => {
    const { journal, runtime, enter } = start();
    enter("Ansel");
    await journal.until(1);
    let answer: number | undefined;
    void runtime
      .query(({ state }) => state.players.byId.size)
      .then((size) => {
        answer = size;
      });
    await turn();
    expect(answer).toBeUndefined();
    journal.finish();
    await turn();
    await turn();
    expect(answer).toBe(1);
  });

  it("refuses without writing, in the order of what was decided before", async () => {
    const { journal, runtime, said } = start();
    runtime.submit({ do: "room.leave", player: "p_000000000000", args: {} }, (settled: Settled) =>
      said.push("refused" in settled ? settled.refused.code : "left"),
    );
    await turn();
    await turn();
    expect([said, journal.batches]).toEqual([["not-in-room", "flush"], []]);
  });

  it("tells watchers of what happens after the state they were given, and of nothing before it", async () => {
    const { journal, runtime, said, enter } = start();
    enter("Ansel");
    const stop = runtime.watch((state) => said.push(`state of ${state.lobbies.quayside?.players}`));
    enter("Brisa");
    await journal.until(1);
    journal.finish();
    await turn();
    const heard = said.filter((line) => /state|happened/.test(line));
    expect(heard).toEqual(["state of 1", "happened player.connected", "happened lobby.joined"]);
    stop();
    enter("Corin");
    await journal.until(2);
    journal.finish();
    await turn();
    expect(said.filter((line) => line.startsWith("happened"))).toHaveLength(2);
  });

  it.each(["away", "fenced"] as const)(
    "takes no commands when its log is %s, and says so to who waits",
    async (what) => {
      const { journal, runtime, said, enter } = start();
      enter("Ansel");
      await journal.until(1);
      enter("Brisa");
      const asked = runtime.query(() => "shown");
      journal.fail(what, "disk full");
      await expect(asked).rejects.toThrow("disk full");
      enter("Corin");
      await turn();
      expect(said.filter((line) => line !== "flush")).toEqual([
        ...Array(2).fill("journal-unavailable"),
        `failed: ${what}`,
        "journal-unavailable",
      ]);
      expect(journal.batches).toHaveLength(1);
      expect(runtime.failure).toMatchObject({ what, error: { message: "disk full" } });
    },
  );

  it("goes on from what is durable once its log can be had again, as if what failed had never been decided", async () => {
    const { journal, runtime, said, enter } = start();
    enter("Ansel");
    await journal.until(1);
    journal.finish();
    await turn();
    enter("Brisa");
    await journal.until(2);
    journal.fail("away", "disk full");
    await turn();
    const rules = rulesOf(testConfig(), [1, 2, 3, 4]);
    const durable = new Harbor(rules);
    for (const { atMs, ...row } of journal.batches[0]?.rows ?? []) durable.replay(readEvent(row), atMs);
    const lastSeq = journal.batches[0]?.rows.at(-1)?.seq ?? 0;
    runtime.takeAgain(durable, { eventLog: journal, lastSeq });
    said.length = 0;
    enter("Corin");
    await journal.until(3);
    expect(journal.batches[2]?.rows[0]?.seq).toBe(lastSeq + 1);
    journal.finish();
    await turn();
    expect(said).toContain("entered Corin");
    const names = await runtime.query(({ state }) => [...state.players.byId.values()].map(({ name }) => name));
    expect(names).toEqual(["Ansel", "Corin"]);
    expect(() => runtime.takeAgain(durable, { eventLog: journal, lastSeq })).toThrow(/away/);
  });

  it("answers without an append only while the harbor is surely its own, else after an append of nothing", async () => {
    let isHeld = true;
    const { journal, runtime } = start(1_000, () => isHeld);
    const count = () => runtime.query(({ state }) => state.players.byId.size);
    expect([await count(), journal.batches.length]).toEqual([0, 0]);
    isHeld = false;
    const asked = count();
    await journal.until(1);
    expect(journal.batches[0]?.rows).toEqual([]);
    journal.finish();
    expect(await asked).toBe(0);
    const stale = count();
    await journal.until(2);
    journal.fail("fenced", "epoch 2 was opened");
    await expect(stale).rejects.toThrow("epoch 2 was opened");
  });

  it("keeps a snapshot each so many events, of exactly what is durable, and none besides", async () => {
    const { journal, runtime, enter } = start(4);
    enter("Ansel");
    await journal.until(1);
    journal.finish();
    await turn();
    expect(journal.snapshots).toEqual([]);
    enter("Brisa");
    await journal.until(2);
    journal.finish();
    await turn();
    expect(journal.snapshots).toEqual([4]);
    enter("Corin");
    await journal.until(3);
    journal.finish();
    await turn();
    await runtime.stop();
    expect(journal.snapshots).toEqual([4]);
  });
});
