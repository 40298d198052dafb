import { PlayerClient, type PlayerOptions } from "@yellow-harbor/client";
import type { Waiting } from "@yellow-harbor/protocol";
import { afterEach, describe, expect, it } from "vitest";
import { endAll, startTestService, type TestService, testConfig } from "../testing/test-service.ts";
import type { Connection } from "./connection.ts";
import { WaitingLine } from "./waiting-line.ts";

afterEach(endAll);

const fullAfter = (limit: number, max = 100) =>
  startTestService(
    testConfig("good", (config) => ({
      ...config,
      players: { ...config.players, limit, waitingLine: { max, graceMs: 60_000 } },
    })),
  );

type Told = Parameters<NonNullable<PlayerOptions["onWaiting"]>>[0];

/** Somebody who waits in line: where it was told to be, and the player once it is in. */
function waiter(service: TestService, name: string) {
  const told: Told[] = [];
  const heard: (() => void)[] = [];
  const player = service.player(name, {
    reconnect: { firstMs: 20, maxMs: 100, attempts: 30 },
    onWaiting: (where) => {
      told.push(where);
      for (const one of heard.splice(0)) one();
    },
  });
  // Whoever waits on when the test ends is told so, and nobody listens.
  player.catch(() => undefined);
  const until = async (holds: (last: Told | undefined) => boolean) => {
    while (!holds(told.at(-1))) await new Promise<void>((resolve) => heard.push(resolve));
  };
  return { player, told, until };
}

describe("a full harbor", () => {
  it("has who wants to wait in line wait, and lets in the first as soon as there is a place", async () => {
    const service = await fullAfter(1);
    const ansel = await service.player("Ansel");
    const brisa = waiter(service, "Brisa");
    await brisa.until((last) => last !== undefined);
    const corin = waiter(service, "Corin");
    await corin.until((last) => last !== undefined);
    expect(brisa.told[0]).toMatchObject({ position: 1, of: 1 });
    expect(corin.told[0]).toMatchObject({ position: 2, of: 2 });
    expect(await service.operator.status()).toMatchObject({ waitingLine: { players: 2 } });
    // Who does not wait is refused, also when a place has just become free.
    await expect(service.player("Edda")).rejects.toMatchObject({ code: "harbor-full" });
    const late = ansel.leave().then(() => service.player("Edda"));
    await expect(late).rejects.toMatchObject({ code: "harbor-full" });
    expect((await brisa.player).name).toBe("Brisa");
    await corin.until((last) => last?.position === 1);
    await (await brisa.player).leave();
    const player = await corin.player;
    await player.openRoom();
    expect((await service.operator.status()).waitingLine).toBeUndefined();
  });

  it("gives who comes again its place in the line, over a restart of the service, before those who came later", async () => {
    const service = await fullAfter(1);
    const ansel = await service.player("Ansel");
    const brisa = waiter(service, "Brisa");
    await brisa.until((last) => last !== undefined);
    const since = brisa.told[0]?.sinceMs;
    const told = brisa.told.length;
    const resumed = new Promise((resolve) => ansel.on("resumed", resolve));
    const again = await service.restart();
    const corin = waiter(again, "Corin");
    await Promise.all([
      resumed,
      brisa.until(() => brisa.told.length > told),
      corin.until((last) => last !== undefined),
    ]);
    expect(brisa.told.at(-1)?.sinceMs).toBe(since);
    await ansel.leave();
    expect((await brisa.player).name).toBe("Brisa");
    await (await brisa.player).leave();
    await corin.player;
  });

  it("lets in who is known already, whoever waits, and has those make way who are away and have begun nothing", async () => {
    const service = await fullAfter(2);
    const device = "device-key-of-a-guest-who-comes-again-1";
    await service.player("Ansel", { device });
    const brisa = await service.player("Brisa", { reconnect: false });
    const corin = waiter(service, "Corin");
    await corin.until((last) => last !== undefined);
    expect((await service.player("Ansel", { device })).name).toBe("Ansel");
    brisa.drop();
    expect((await corin.player).name).toBe("Corin");
  });

  it("refuses who would wait behind a full line, and where there is none", async () => {
    const service = await fullAfter(1, 1);
    await service.player("Ansel");
    const brisa = waiter(service, "Brisa");
    await brisa.until((last) => last !== undefined);
    const corin = waiter(service, "Corin");
    await expect(corin.player).rejects.toMatchObject({
      problem: { detail: expect.stringContaining("1 wait in line") },
    });
    const none = await fullAfter(1, 0);
    await none.player("Ansel");
    await expect(waiter(none, "Brisa").player).rejects.toMatchObject({ code: "harbor-full" });
  });
});

describe("the line", () => {
  const keyedSum = (_of: string, text: string) => Buffer.from(`${"x".repeat(16)}${text}`).reverse();

  function lineOf(graceMs = 60_000) {
    let now = 1_000_000;
    let free = 0;
    const line = new WaitingLine({
      config: { max: 10, graceMs },
      tokens: { keyedSum },
      now: () => now,
      free: () => free,
      mayMakeWay: () => true,
      flushSoon: () => undefined,
    });
    const entered: string[] = [];
    /** Stands in line under a name; what it was told last, and why it was closed. */
    const stand = (name: string, token?: string, full = false) => {
      const said: Waiting[] = [];
      const closed: string[] = [];
      const connection = {
        isOpen: true,
        say: (frame: Waiting) => said.push(frame),
        close: ({ code }: { code: string }) => closed.push(code),
      } as unknown as Connection;
      line.join(connection, token, (ended) => {
        entered.push(name);
        ended(full);
      });
      return { connection, said, closed };
    };
    const pass = (ms: number) => {
      now += ms;
    };
    const letIn = (many: number) => {
      free = many;
      line.advance();
      free = 0;
    };
    return { line, stand, pass, letIn, entered };
  }

  it("believes no token that it has not given out, and none that is too old", () => {
    const { line, stand, pass } = lineOf(10_000);
    const { said, connection } = stand("Ansel");
    const [id = "", since = "", seen = "", sum = ""] = said[0]?.token.split(".") ?? [];
    line.leave(connection);
    pass(5_000);
    const isBack = (token: string) => stand("Ansel", token).said[0]?.sinceMs === Number(since);
    expect(isBack(`${id}.1.${seen}.${sum}`)).toBe(false);
    expect(isBack(`${id}.${since}.${Number(seen) + 9_000}.${sum}`)).toBe(false);
    expect(isBack("")).toBe(false);
    expect(isBack("....")).toBe(false);
    expect(isBack(said[0]?.token ?? "")).toBe(true);
    pass(20_000);
    expect(isBack(said[0]?.token ?? "")).toBe(false);
    line.close();
  });

  it("keeps the order of those who come at once, also when they come again in another", () => {
    const { line, stand } = lineOf();
    const all = Array.from({ length: 9 }, (_, n) => stand(`${n}`));
    expect(all.map(({ said }) => said[0]?.position)).toEqual([1, 2, 3, 4, 5, 6, 7, 8, 9]);
    const tokens = all.map(({ said }) => said[0]?.token);
    for (const { connection } of all) line.leave(connection);
    for (const token of [...tokens].reverse()) stand("again", token);
    const places = tokens.map((token) => stand("once more", token).said[0]?.position);
    expect(places).toEqual([1, 2, 3, 4, 5, 6, 7, 8, 9]);
    line.close();
  });

  it("has one place for a token: who shows it last has it, and the one before is told", () => {
    const { line, stand, pass, letIn, entered } = lineOf();
    const first = stand("first");
    pass(1);
    stand("second");
    const again = stand("again", first.said[0]?.token);
    expect(first.closed).toEqual(["taken-over"]);
    expect(again.said[0]).toMatchObject({ position: 1, of: 2 });
    letIn(1);
    expect(entered).toEqual(["again"]);
    line.close();
  });

  it("puts back in front who found no place after all, and estimates by the pace of those who were let in", () => {
    const { line, stand, pass, letIn, entered } = lineOf();
    stand("first", undefined, true);
    pass(1);
    stand("second");
    letIn(1);
    expect(entered).toEqual(["first"]);
    expect(line.size).toBe(2);
    line.close();
    for (const name of ["a", "b", "c"]) stand(name);
    letIn(3);
    expect(stand("d").said[0]?.estimateMs).toBeTypeOf("number");
    line.close();
    expect(line.size).toBe(0);
  });
});

describe("a client that waits", () => {
  it("is told by plain frames, and its place is gone with the service that it cannot reach", async () => {
    const service = await fullAfter(1);
    await service.player("Ansel");
    const never = PlayerClient.connect({
      url: service.url,
      name: "Brisa",
      build: "game-1",
      onWaiting: () => void service.stop(),
      reconnect: { attempts: 2, firstMs: 1, maxMs: 5 },
    });
    await expect(never).rejects.toMatchObject({ problem: { code: "service-unreachable" } });
  });
});
