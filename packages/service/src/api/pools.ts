import { type Command, costsView, machineViews, poolView } from "@yellow-harbor/core";
import { type OperatorRoutes, type Problem, problem } from "@yellow-harbor/protocol";
import type { ApiParts } from "./parts.ts";
import type { Handlers } from "./serve-routes.ts";

type PoolRoutes = Pick<
  OperatorRoutes,
  | "pools"
  | "explainPool"
  | "setPoolMode"
  | "pinPool"
  | "considerPool"
  | "warmPool"
  | "coolPool"
  | "machines"
  | "setMachineMode"
  | "removeMachine"
  | "costs"
>;

/** Pools with their plans, what operators may say to the planner, and what running them costs. */
export function poolHandlers({ runtime }: ApiParts): Handlers<PoolRoutes> {
  const view = async (pool: string) =>
    (await runtime.query(({ state, rules }, atMs) => poolView(state, rules, pool, atMs))) ?? {
      refused: unknownPool(pool, [...runtime.rules.pools.keys()]),
    };
  /** Has a command decided, and answers with the pool as it is then. */
  const carryOut = async (command: Extract<Command, { do: `plan.${string}` }>) => {
    const settled = await runtime.ask(command);
    return "refused" in settled ? settled : view(command.pool);
  };
  return {
    pools: () =>
      runtime.query(({ state, rules }, atMs) => ({
        pools: [...rules.pools.keys()].flatMap((pool) => poolView(state, rules, pool, atMs) ?? []),
      })),
    explainPool: ({ params: { pool } }) => view(pool),
    setPoolMode: ({ params: { pool }, body: { mode } }) => carryOut({ do: "plan.set-mode", pool, mode }),
    pinPool: ({ params: { pool }, body: { instances } }) => carryOut({ do: "plan.pin", pool, instances }),
    considerPool: ({ params: { pool } }) => carryOut({ do: "plan.consider", pool }),
    warmPool: ({ params: { pool }, body: { fromMs, lastsMs, min, spare, reason } }) =>
      carryOut({ do: "plan.warm", pool, fromMs, lastsMs, min, spare, reason }),
    coolPool: ({ params: { pool, window } }) => carryOut({ do: "plan.cool", pool, window }),
    machines: () => runtime.query(({ state, rules }) => ({ machines: machineViews(state, rules) })),
    setMachineMode: async ({ params: { machine }, body }) => {
      const { mode, withinMs, reason } = body;
      const settled = await runtime.ask({ do: "machine.set-mode", machine, mode, withinMs, reason });
      if ("refused" in settled) return settled;
      const all = await runtime.query(({ state, rules }) => machineViews(state, rules));
      const view = all.find(({ id }) => id === machine);
      if (view === undefined) throw new Error(`machine ${machine} is gone right after its mode was set`);
      return view;
    },
    removeMachine: async ({ params: { machine } }) => {
      const settled = await runtime.ask({ do: "machine.remove", machine });
      if ("refused" in settled) return settled;
      return runtime.query(({ state, rules }) => ({ machines: machineViews(state, rules) }));
    },
    costs: () => runtime.query(({ state, rules }, atMs) => costsView(state, rules, atMs)),
  };
}

const unknownPool = (pool: string, accepted: string[]): Problem =>
  problem("pool-unknown", `There is no pool ${pool}; there are ${accepted.join(", ")}.`, { accepted });
