import { createServer, type Server } from "node:http";
import { instanceEnvironment } from "@yellow-harbor/protocol";
import { afterEach, describe, expect, it } from "vitest";
import { RefusedError } from "./call.ts";
import { type InstanceHandlers, InstanceKit, readEnvironment } from "./instance-kit.ts";

interface Call {
  readonly step: string;
  readonly body: Record<string, unknown>;
  readonly key: string | undefined;
}
type Answer = { status?: number; body: object } | "hang up";

const servers: Server[] = [];
afterEach(() => {
  for (const server of servers.splice(0)) {
    server.closeAllConnections();
    server.close();
  }
});

/** A service that answers each step as the test says, and notes what it was asked. */
async function fakeService(answer: (call: Call, count: number) => Answer | Promise<Answer>) {
  const calls: Call[] = [];
  const server = createServer((request, response) => {
    let text = "";
    request.on("data", (chunk) => (text += chunk));
    request.on("end", async () => {
      const step = request.url?.split("/").at(-1) ?? "";
      const call = { step, body: JSON.parse(text), key: request.headers.authorization };
      calls.push(call);
      const given = await answer(call, calls.filter((one) => one.step === step).length);
      if (given === "hang up") return request.socket.destroy();
      response.writeHead(given.status ?? 200, { "content-type": "application/json" });
      response.end(JSON.stringify(given.body));
    });
  });
  servers.push(server);
  const port = await new Promise<number>((resolve) =>
    server.listen(0, "127.0.0.1", () => resolve((server.address() as { port: number }).port)),
  );
  const environment = {
    url: `http://127.0.0.1:${port}`,
    key: "secret",
    instance: "i_000000000001",
    host: "127.0.0.1",
    port: 7500,
  };
  const kit = (handlers: Partial<InstanceHandlers> = {}, orphanMs?: number) =>
    new InstanceKit({ match: () => undefined, stop: () => undefined, ...handlers }, environment, orphanMs);
  return { calls, kit };
}

const match = { room: "r_1", run: "u_1", level: "brine-gate", players: [] };
const problem = (code: string, status = 409): Answer => ({ status, body: { code, detail: code, status } });
const forever = () => new Promise<Answer>(() => undefined);

describe("the kit", () => {
  it("removes a player for a reason, says what else is known of a run, and hears what has changed", async () => {
    const change = { number: 1, instruction: "match-changed", run: "u_1", host: "p_2", more: "of a newer service" };
    const { calls, kit } = await fakeService(({ step }, count) =>
      step === "poll" && count > 1 ? forever() : { body: { instructions: [change] } },
    );
    const heard = new Promise((resolve) => {
      const one = kit({ changed: (changed, run) => resolve({ changed, run }) });
      void one.announce().then(async () => {
        await one.kick("p_1", { reason: "flew through walls" });
        await one.report("u_1", [{ player: "p_1", score: 0, verdict: "kicked" }], {
          sides: { north: 3 },
          payload: [1],
        });
      });
    });
    expect(await heard).toEqual({ changed: { host: "p_2" }, run: "u_1" });
    await expect.poll(() => calls.filter(({ step }) => step === "report"), { timeout: 30_000 }).toHaveLength(1);
    expect(calls.find(({ step }) => step === "kick")?.body).toEqual({
      player: "p_1",
      ban: true,
      reason: "flew through walls",
    });
    expect(calls.find(({ step }) => step === "report")?.body).toMatchObject({ sides: { north: 3 }, payload: [1] });
  });

  it("announces with its key and port, then polls", async () => {
    const { calls, kit } = await fakeService(({ step }) => (step === "poll" ? forever() : { body: {} }));
    await kit().announce();
    expect(calls[0]).toEqual({ step: "announce", body: { port: 7500, pid: process.pid }, key: "Bearer secret" });
  });

  it("carries out each instruction once, in turn, and acknowledges it with the next poll", async () => {
    const instructions = [
      { number: 1, instruction: "match-assigned", match },
      { number: 2, instruction: "match-started", run: "u_1", without: ["p_2"] },
      { number: 3, instruction: "stop", reason: "over" },
    ];
    const seen: string[] = [];
    let stopped: () => void = () => undefined;
    const isStopped = new Promise<void>((resolve) => {
      stopped = resolve;
    });
    const { calls, kit } = await fakeService(({ step, body }) => {
      if (step !== "poll") return { body: {} };
      // The service repeats what was not acknowledged.
      const rest = instructions.filter((instruction) => instruction.number > Number(body.acknowledged));
      return rest.length > 0
        ? { body: { instructions: body.acknowledged === 0 ? rest.slice(0, 1) : rest } }
        : forever();
    });
    await kit({
      match: ({ run }) => void seen.push(run),
      begin: (run, without) => void seen.push(`${run} without ${without}`),
      stop: (reason) => {
        seen.push(reason);
        stopped();
      },
    }).announce();
    await isStopped;
    expect(seen).toEqual(["u_1", "u_1 without p_2", "over"]);
    expect(
      calls
        .filter((call) => call.step === "poll")
        .map((call) => call.body.acknowledged)
        .slice(0, 2),
    ).toEqual([0, 1]);
  });

  it("says who is there, and nobody of a run that is over", async () => {
    const instructions = [
      { number: 1, instruction: "release-player", run: "u_1", player: "p_2" },
      { number: 2, instruction: "end-match", run: "u_1", reason: "over" },
    ];
    const said: unknown[] = [];
    let last: () => void = () => undefined;
    const isLast = new Promise<void>((resolve) => {
      last = resolve;
    });
    let boarded = 0;
    const { kit } = await fakeService(({ step, body }) => {
      if (step === "board") {
        boarded += 1;
        return {
          body: { player: { id: `p_${boarded}`, name: "Ansel", place: 0 }, room: "r_1", run: "u_1", level: "l" },
        };
      }
      if (step !== "poll") return { body: {} };
      said.push(body.players);
      const next = instructions[Number(body.acknowledged)];
      if (next) return { body: { instructions: [next] } };
      last();
      return forever();
    });
    const one = kit();
    for (const pass of ["a", "b", "c"]) await one.board(pass);
    await one.announce();
    await isLast;
    expect(said).toEqual([["p_1", "p_2", "p_3"], ["p_1", "p_3"], []]);
  });

  it("goes on trying while the service is away, and says so", async () => {
    const told: string[] = [];
    const { calls, kit } = await fakeService(({ step }, count) => {
      if (step === "poll") return forever();
      if (count === 1) return "hang up";
      return count === 2 ? problem("journal-unavailable", 503) : { body: {} };
    });
    await kit({ unreachable: (detail) => told.push(detail) }).announce();
    expect(calls.filter((call) => call.step === "announce")).toHaveLength(3);
    expect(told).toHaveLength(2);
  });

  it("shows a pass with one mark for all attempts, so that a lost answer is given again", async () => {
    const boarded = { player: { id: "p_1", name: "Ansel", place: 0 }, room: "r_1", run: "u_1", level: "brine-gate" };
    const { calls, kit } = await fakeService((_call, count) => (count === 1 ? "hang up" : { body: boarded }));
    expect(await kit().board("pass")).toEqual(boarded);
    expect(calls[0]?.body.attempt).toBe(calls[1]?.body.attempt);
    expect(String(calls[0]?.body.attempt)).toHaveLength(36);
  });

  it("does not try again what was refused", async () => {
    const { calls, kit } = await fakeService(() => problem("pass-used"));
    const refused = kit().board("pass");
    await expect(refused).rejects.toBeInstanceOf(RefusedError);
    await expect(refused).rejects.toMatchObject({ problem: { code: "pass-used", status: 409 } });
    expect(calls).toHaveLength(1);
  });

  it("takes a result that is known already as reported, and nothing else", async () => {
    const { kit } = await fakeService(({ body }) => problem(body.run === "u_1" ? "result-known" : "match-unknown"));
    await kit().report("u_1", []);
    await expect(kit().report("u_2", [])).rejects.toMatchObject({ problem: { code: "match-unknown" } });
  });

  it("is dismissed when the service is done with it, and polls no more", async () => {
    const { calls, kit } = await fakeService(({ step }) =>
      step === "poll" ? problem("instance-ended", 410) : { body: {} },
    );
    const detail = await new Promise<string>((resolve) => void kit({ dismissed: resolve }).announce());
    expect(detail).toBe("instance-ended");
    expect(calls.filter((call) => call.step === "poll")).toHaveLength(1);
  });

  it("is dismissed when the service stays away for longer than it waits", async () => {
    const { kit, calls } = await fakeService(({ step }) => (step === "poll" ? "hang up" : { body: {} }));
    const detail = await new Promise<string>((resolve) => void kit({ dismissed: resolve }, 300).announce());
    expect(detail).toContain("the service has been away for 0 s");
    expect(calls.filter((call) => call.step === "poll").length).toBeGreaterThan(1);
  });

  it("says goodbye to a service that is away without waiting for it", async () => {
    const { kit } = await fakeService(() => "hang up");
    await kit().goodbye("over");
  });
});

describe("the environment of an instance", () => {
  it("is read, or the name that is missing is said", () => {
    const env = Object.fromEntries(
      Object.values(instanceEnvironment).map((name) => [name, name.endsWith("PORT") ? "7500" : name]),
    );
    expect(readEnvironment(env)).toMatchObject({ port: 7500, key: "YELLOW_HARBOR_KEY" });
    expect(() => readEnvironment({ ...env, YELLOW_HARBOR_KEY: "" })).toThrow("YELLOW_HARBOR_KEY is not set");
  });
});
