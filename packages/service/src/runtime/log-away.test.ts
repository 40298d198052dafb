import { join } from "node:path";
import type { PlayerClient } from "@yellow-harbor/client";
import Database from "better-sqlite3";
import { afterEach, describe, expect, it } from "vitest";
import {
  endAll,
  isAlive,
  sayToInstance,
  startTestService,
  startVoyage,
  type TestService,
} from "../testing/test-service.ts";

afterEach(endAll);

describe("a service whose journal fails", () => {
  /** From now on every append is refused, until what comes back is called. */
  function fillDisk(service: TestService): () => void {
    const change = (sql: string) => {
      const sqlite = new Database(join(service.data, "harbor.sqlite"));
      sqlite.exec(sql);
      sqlite.close();
    };
    change("CREATE TRIGGER full BEFORE INSERT ON journal BEGIN SELECT RAISE(FAIL, 'database or disk is full'); END");
    return () => change("DROP TRIGGER full");
  }

  const until = (player: PlayerClient, event: "lost" | "resumed") =>
    new Promise((resolve) => player.on(event, resolve));

  it("answers nothing that is not durable, takes nothing meanwhile, and is not healthy", async () => {
    const service = await startTestService();
    const ansel = await service.player("Ansel", { reconnect: false });
    fillDisk(service);
    await expect(ansel.openRoom()).rejects.toMatchObject({ code: "journal-unavailable" });
    await expect(service.player("Brisa", { reconnect: false })).rejects.toMatchObject({ code: "journal-unavailable" });
    const health = await fetch(`${service.url}/healthz`);
    expect([health.status, await health.json()]).toEqual([
      503,
      {
        ok: false,
        detail:
          "Nothing is taken, since the journal cannot be written: database or disk is full. It is tried again every few seconds; make room on its disk.",
      },
    ]);
    const readiness = await fetch(`${service.url}/readyz`);
    expect(readiness.status).toBe(503);
    expect(await readiness.json()).toMatchObject({ ok: false, state: "halted" });
    expect(ansel.state.room).toBeUndefined();
  });

  it("goes on by itself once it can be written: players come back to a match as it was, and it ends well", async () => {
    const service = await startTestService();
    const { ansel, brisa } = await startVoyage(service);
    const passes = await Promise.all([ansel.nextPass(), brisa.nextPass()]);
    for (const { address, pass } of passes) await sayToInstance(address, pass);
    await ansel.until(({ room }) => room?.phase === "playing");
    const instance = passes[0].instance ?? "";
    const { pid = 0 } = await service.operator.instance(instance);
    const lost = Promise.all([until(ansel, "lost"), until(brisa, "lost")]);
    const resumed = Promise.all([until(ansel, "resumed"), until(brisa, "resumed")]);
    const makeRoom = fillDisk(service);
    await expect(ansel.board.set("tide", 1)).rejects.toMatchObject({ code: "journal-unavailable" });
    await lost;
    makeRoom();
    await resumed;
    expect((await fetch(`${service.url}/healthz`)).status).toBe(200);
    await ansel.board.set("tide", 2);
    await brisa.until(({ room }) => room?.board?.["tide"]?.box[0] === 2);
    expect(isAlive(pid)).toBe(true);
    expect(await sayToInstance(passes[0].address, "report")).toMatchObject({ status: 200 });
    await ansel.until(({ room }) => room?.result !== undefined);
    const again = await service.restart();
    expect(await again.operator.instance(instance)).toMatchObject({ id: instance });
  });

  it("ends the streams of those who watch everything, who begin anew", async () => {
    const service = await startTestService();
    const ansel = await service.player("Ansel");
    const stream = service.operator.watch(AbortSignal.timeout(20_000));
    expect((await stream.next()).value).toMatchObject({ message: "state" });
    fillDisk(service);
    await expect(ansel.openRoom()).rejects.toMatchObject({ code: "journal-unavailable" });
    while (!(await stream.next()).done);
  });
});
