import { setTimeout } from "node:timers/promises";
import type { Harbor } from "@yellow-harbor/core";
import { type InstanceId, type Instruction, instanceRoutes, problem } from "@yellow-harbor/protocol";
import { callerOf } from "../front-door/caller.ts";
import { passDetail } from "../keys/pass-detail.ts";
import { steadyMs } from "../runtime/clock.ts";
import type { Settled } from "../runtime/outbox.ts";
import { bearerOf } from "./access.ts";
import type { Api, ApiParts } from "./parts.ts";
import { sendProblem } from "./problems.ts";
import { type Handlers, serveRoutes } from "./serve-routes.ts";

/** How long a poll is held open when the instance does not say. */
const POLL_WAIT_MS = 5_000;
/** And while nothing can be written, at most. */
const AWAY_WAIT_MS = 500;

declare module "fastify" {
  interface FastifyRequest {
    /** Whose key an instance's request carries; empty in all others. */
    instance: InstanceId;
  }
}

/** What instances say. Each call carries the instance's key; nothing in a body can name another instance. */
export function serveInstances(api: Api, parts: ApiParts): void {
  const { tokens, polls, twoPlaces, trusts } = parts;

  // Whose key it is comes before the body: a stranger's is not even read.
  api.decorateRequest("instance", "");
  api.addHook("onRequest", async (request, reply) => {
    const key = bearerOf(request);
    const instance = key === undefined ? undefined : tokens.checkInstanceKey(key);
    if (instance === undefined) {
      const detail =
        "The instance key is missing or not one of this harbor's; send Authorization: Bearer with the key of the environment.";
      return sendProblem(reply, problem("instance-key-invalid", detail));
    }
    twoPlaces.seen(instance, callerOf(request.raw, trusts));
    polls.hear(instance, steadyMs());
    request.instance = instance;
  });

  // No page ever reads these, and a start waits for them.
  serveRoutes(api, instanceRoutes, handlersOf(parts), { helmet: false });
}

const handlersOf = ({ runtime, tokens, polls }: ApiParts): Handlers<typeof instanceRoutes> => ({
  announce: async ({ request: { instance }, body: { port, pid } }) => {
    const settled = await runtime.ask({ do: "instance.announce", instance, port, pid });
    return "refused" in settled ? settled : { ...settled.reply, pollWaitMs: POLL_WAIT_MS };
  },

  poll: async ({ request, reply, body: { acknowledged, players, waitMs = POLL_WAIT_MS } }) => {
    const { instance } = request;
    const settled = await runtime.ask({ do: "instance.acknowledge", instance, acknowledged, players });
    if ("refused" in settled) {
      // A pause of ours is no reason to end a match: there is nothing new, and what was acknowledged is so with the next poll.
      if (runtime.failure === undefined) return settled;
      await setTimeout(Math.min(waitMs, AWAY_WAIT_MS));
      return { instructions: [] };
    }
    const { instructions: waiting } = settled.reply;
    if (waiting.length > 0 || waitMs === 0 || request.raw.socket.destroyed) return { instructions: [...waiting] };
    const instructions = await new Promise<readonly Instruction[]>((resolve) => {
      const letGo = polls.hold(instance, waitMs, resolve);
      // What became durable between the answer above and this hold woke nobody: it is looked for once more.
      const missed = ({ state }: Harbor) =>
        state.pools.instances.get(instance)?.instructions.filter(({ number }) => number > acknowledged) ?? [];
      runtime.read(
        missed,
        (given) => given.length > 0 && polls.answer(instance, given),
        () => undefined,
      );
      // The response's own end: the socket serves one poll after the other.
      reply.raw.once("close", () => {
        letGo();
        resolve([]);
      });
    });
    polls.hear(instance, steadyMs());
    return { instructions: [...instructions] };
  },

  board: async ({ request: { instance }, body: { pass: shown, attempt } }) => {
    const check = tokens.checkPass(shown, instance);
    if (!check.ok) return { refused: problem(check.code, passDetail[check.code]) };
    const { player, pass, run, level } = check;
    return replyOf(await runtime.ask({ do: "instance.board", instance, player, pass, run, level, attempt }));
  },

  unboard: async ({ request: { instance }, body }) =>
    replyOf(await runtime.ask({ do: "instance.unboard", instance, ...body })),

  kickFromMatch: async ({ request: { instance }, body: { player, reason, ban } }) =>
    replyOf(await runtime.ask({ do: "instance.kick", instance, player, reason, ban })),

  report: async ({ request: { instance }, body }) =>
    replyOf(await runtime.ask({ do: "instance.report", instance, ...body })),

  goodbye: async ({ request: { instance }, body: { reason } }) =>
    replyOf(await runtime.ask({ do: "instance.goodbye", instance, reason })),
});

const replyOf = <Reply extends object>(settled: Settled<Reply>) => ("refused" in settled ? settled : settled.reply);
