import type { Command, Harbor } from "@yellow-harbor/core";
import {
  Acknowledged,
  Announce,
  AnnounceReply,
  Board,
  BoardReply,
  Farewell,
  type InstanceId,
  type Order,
  Pulse,
  PulseReply,
  problem,
  Report,
  Unboard,
} from "@yellow-harbor/protocol";
import type { FastifyReply } from "fastify";
import type { z } from "zod";
import { passDetail } from "../keys/pass-detail.ts";
import { steadyMs } from "../runtime/clock.ts";
import { bearerOf } from "./access.ts";
import type { Api, ApiParts } from "./parts.ts";
import { sendProblem } from "./problems.ts";

/** How long a pulse is held open when the instance does not say. */
const PULSE_WAIT_MS = 5_000;

declare module "fastify" {
  interface FastifyRequest {
    /** Whose key an instance's request carries; empty in all others. */
    instance: InstanceId;
  }
}

/** What an instance says that is answered at once. */
type Said = Extract<Command, { do: `instance.${"announce" | "board" | "unboard" | "report" | "farewell"}` }>;

const tags = ["instances' own"];
const security = [{ instanceKey: [] }];

/** What instances say. Each call carries the instance's key; nothing in a body can name another instance. */
export function instanceRoutes(api: Api, parts: ApiParts): void {
  const { runtime, tokens, pulses } = parts;

  // Whose key it is comes before the body: a stranger's is not even read.
  api.decorateRequest("instance", "");
  api.addHook("onRequest", async (request, reply) => {
    const key = bearerOf(request);
    const instance = key === undefined ? undefined : await tokens.checkInstanceKey(key);
    if (instance === undefined) {
      const detail =
        "The instance key is missing or not one of this harbor's; send Authorization: Bearer with the key of the environment.";
      return sendProblem(reply, problem("instance-key-invalid", detail));
    }
    pulses.hear(instance, steadyMs());
    request.instance = instance;
  });

  const settle = async (reply: FastifyReply, command: Said, extra?: object): Promise<FastifyReply> => {
    const settled = await runtime.ask(command);
    if ("refused" in settled) return sendProblem(reply, settled.refused);
    return reply.send({ ...settled.reply, ...extra });
  };

  const route = <B extends z.ZodType, R extends z.ZodType>(path: string, summary: string, body: B, response: R) => ({
    url: `/v1/instance/${path}`,
    // No page ever reads this, and a start waits for it.
    helmet: false as const,
    schema: { tags, security, summary, body, response: { 200: response } },
  });

  const announce = route("announce", "Say that the process is up and listens on its port.", Announce, AnnounceReply);
  api.post(announce.url, { schema: announce.schema, helmet: announce.helmet }, async (request, reply) => {
    const { instance } = request;
    const { port, pid } = request.body;
    return settle(reply, { do: "instance.announce", instance, port, pid }, { pulseWaitMs: PULSE_WAIT_MS });
  });

  const pulse = route(
    "pulse",
    "Show life and wait for orders: answered when there are some, or empty.",
    Pulse,
    PulseReply,
  );
  api.post(pulse.url, { schema: pulse.schema, helmet: pulse.helmet }, async (request, reply) => {
    const { instance } = request;
    const { taken, players, waitMs = PULSE_WAIT_MS } = request.body;
    const settled = await runtime.ask({ do: "instance.take-orders", instance, taken, players });
    if ("refused" in settled) return sendProblem(reply, settled.refused);
    const waiting = settled.reply.orders;
    if (waiting.length > 0 || waitMs === 0 || request.raw.socket.destroyed) return reply.send({ orders: waiting });
    const orders = await new Promise<readonly Order[]>((resolve) => {
      const letGo = pulses.hold(instance, waitMs, resolve);
      // What became durable between the answer above and this hold woke nobody: it is looked for once more.
      const missed = ({ state }: Harbor) =>
        state.pools.instances.get(instance)?.orders.filter(({ number }) => number > taken) ?? [];
      runtime.read(
        missed,
        (given) => given.length > 0 && pulses.answer(instance, given),
        () => undefined,
      );
      // The response's own end: the socket serves one pulse after the other.
      reply.raw.once("close", () => {
        letGo();
        resolve([]);
      });
    });
    pulses.hear(instance, steadyMs());
    return reply.send({ orders: [...orders] });
  });

  const board = route("board", "Show a player's boarding pass to have its berth filled.", Board, BoardReply);
  api.post(board.url, { schema: board.schema, helmet: board.helmet }, async (request, reply) => {
    const { instance } = request;
    const check = await tokens.checkPass(request.body.pass, instance);
    if (!check.ok) return sendProblem(reply, problem(check.code, passDetail[check.code]));
    const { player, pass, run, level } = check;
    return settle(reply, { do: "instance.board", instance, player, pass, run, level, attempt: request.body.attempt });
  });

  const unboard = route("unboard", "Say that a player is gone from the instance.", Unboard, Acknowledged);
  api.post(unboard.url, { schema: unboard.schema, helmet: unboard.helmet }, async (request, reply) => {
    const { instance } = request;
    return settle(reply, { do: "instance.unboard", instance, ...request.body });
  });

  const report = route("report", "Report the result of a run. Once for each run.", Report, Acknowledged);
  api.post(report.url, { schema: report.schema, helmet: report.helmet }, async (request, reply) => {
    const { instance } = request;
    const { run, standings, note } = request.body;
    return settle(reply, { do: "instance.report", instance, run, standings, note });
  });

  const farewell = route("farewell", "Say that the process is about to exit.", Farewell, Acknowledged);
  api.post(farewell.url, { schema: farewell.schema, helmet: farewell.helmet }, async (request, reply) => {
    const { instance } = request;
    return settle(reply, { do: "instance.farewell", instance, reason: request.body.reason });
  });
}
