import { type Command, poolView } from "@yellow-harbor/core";
import { ConfigName, PinPool, PoolList, PoolView, type Problem, problem, SetPoolMode } from "@yellow-harbor/protocol";
import { z } from "zod";
import type { Api, ApiParts } from "./parts.ts";
import { sendProblem } from "./problems.ts";

const tags = ["pools"];
const security = [{ operatorToken: [] }];
const params = z.object({ pool: ConfigName });

/** Pools with their plans, and what operators may say to the planner. */
export function poolRoutes(api: Api, { runtime }: ApiParts): void {
  const view = (pool: string) => runtime.query(({ state, rules }, atMs) => poolView(state, rules, pool, atMs));

  const listSchema = { tags, security, summary: "The pools and their plans.", response: { 200: PoolList } };
  api.get("/v1/pools", { schema: listSchema }, async () =>
    runtime.query(({ state, rules }, atMs) => ({
      pools: [...rules.pools.keys()].flatMap((pool) => poolView(state, rules, pool, atMs) ?? []),
    })),
  );

  const planSchema = {
    tags,
    security,
    params,
    response: { 200: PoolView },
    summary: "How many instances a pool should run, and the numbers that this was made from.",
  };
  api.get("/v1/pools/:pool/plan", { schema: planSchema }, async ({ params: { pool } }, reply) => {
    return (await view(pool)) ?? sendProblem(reply, unknownPool(pool, [...runtime.rules.pools.keys()]));
  });

  /** Has a command decided, and answers with the pool as it is then. */
  const carryOut = async (command: Extract<Command, { pool: string }>) => {
    const settled = await runtime.ask(command);
    return "refused" in settled ? settled.refused : await view(command.pool);
  };

  const modeSchema = {
    tags,
    security,
    params,
    body: SetPoolMode,
    response: { 200: PoolView },
    summary:
      "Pause the planner of a pool, or let it go on; also after it has given up on instances that do not come up.",
  };
  api.post("/v1/pools/:pool/mode", { schema: modeSchema }, async ({ params: { pool }, body: { mode } }, reply) => {
    const answer = await carryOut({ do: "plan.set-mode", pool, mode });
    return answer && "text" in answer ? answer : sendProblem(reply, answer ?? unknownPool(pool, []));
  });

  const pinSchema = {
    tags,
    security,
    params,
    body: PinPool,
    response: { 200: PoolView },
    summary: "Pin a pool to a number of instances whatever the demand, or let it be planned again.",
  };
  api.post("/v1/pools/:pool/pin", { schema: pinSchema }, async ({ params: { pool }, body: { instances } }, reply) => {
    const answer = await carryOut({ do: "plan.pin", pool, instances });
    return answer && "text" in answer ? answer : sendProblem(reply, answer ?? unknownPool(pool, []));
  });

  const applySchema = {
    tags,
    security,
    params,
    response: { 200: PoolView },
    summary: "Have the planner look at a pool now, instead of within a second.",
  };
  api.post("/v1/pools/:pool/consider", { schema: applySchema }, async ({ params: { pool } }, reply) => {
    const answer = await carryOut({ do: "plan.consider", pool });
    return answer && "text" in answer ? answer : sendProblem(reply, answer ?? unknownPool(pool, []));
  });
}

const unknownPool = (pool: string, accepted: string[]): Problem =>
  problem("pool-unknown", `There is no pool ${pool}; there are ${accepted.join(", ")}.`, { accepted });
