import { explainInstance, instanceView } from "@yellow-harbor/core";
import { type InstanceView, type OperatorRoutes, problem } from "@yellow-harbor/protocol";
import type { ApiParts } from "./parts.ts";
import type { Handlers } from "./serve-routes.ts";

/** Instances, those that run and those that have ended. */
export const instanceHandlers = ({
  runtime,
  history,
}: ApiParts): Handlers<Pick<OperatorRoutes, "instances" | "instance" | "explainInstance" | "drainInstance">> => {
  const find = async (instance: string) => {
    const live = await runtime.query(({ state }) => {
      const known = state.pools.instances.get(instance);
      return known && instanceView(state, known);
    });
    const detail = `There is no instance ${instance}; \`yh instance list --ended\` shows all there were.`;
    return live ?? (await history.instanceRecord(instance)) ?? { refused: problem("instance-unknown", detail) };
  };
  return {
    instances: async ({ query: { limit, after, state: wanted, ended } }) => {
      if (ended) {
        const before = after === undefined ? undefined : parseCursor(after);
        const instances = await history.instanceRecords({ limit, before, state: wanted });
        return { instances, ...(instances.length === limit && { next: cursorOf(instances.at(-1)) }) };
      }
      const live = await runtime.query(({ state }) =>
        [...state.pools.instances.values()]
          .filter((one) => !one.gone && (wanted === undefined || one.state === wanted))
          .map((one) => instanceView(state, one)),
      );
      live.sort((a, b) => b.launchedAtMs - a.launchedAtMs || (a.id < b.id ? 1 : -1));
      const from = after === undefined ? 0 : live.findIndex((one) => cursorOf(one) === after) + 1;
      const page = live.slice(from, from + limit);
      return { instances: page, ...(from + limit < live.length && { next: cursorOf(page.at(-1)) }) };
    },

    instance: ({ params: { instance } }) => find(instance),

    explainInstance: async ({ params: { instance } }) => {
      const found = await find(instance);
      if ("refused" in found) return found;
      return runtime.query(({ state, rules }) => explainInstance(state, rules, found));
    },

    drainInstance: async ({ params: { instance: id }, body: { reason } }) => {
      const why = reason === undefined ? "drained by an operator" : `drained by an operator: ${reason}`;
      const settled = await runtime.ask({ do: "pool.drain", id, why });
      if ("refused" in settled) return settled;
      return runtime.query(({ state }) => {
        const known = state.pools.instances.get(id);
        if (known === undefined) throw new Error(`instance ${id} is gone right after it was asked to drain`);
        return instanceView(state, known);
      });
    },
  };
};

const cursorOf = (view: InstanceView | undefined) =>
  view === undefined ? undefined : `${view.launchedAtMs}.${view.id}`;

function parseCursor(cursor: string): { launchedAtMs: number; id: string } {
  const dot = cursor.indexOf(".");
  return { launchedAtMs: Number(cursor.slice(0, dot)) || 0, id: cursor.slice(dot + 1) };
}
