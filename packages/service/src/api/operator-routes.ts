import { type Harbor, instanceView, lobbySummary } from "@yellow-harbor/core";
import {
  DrainInstance,
  InstancePage,
  InstanceQuery,
  InstanceState,
  InstanceView,
  Phase,
  problem,
  StatusView,
  WIRE_VERSION,
} from "@yellow-harbor/protocol";
import { z } from "zod";
import { operatorRefusal } from "./access.ts";
import { buildRoutes } from "./build-routes.ts";
import { historyRoutes } from "./history-routes.ts";
import { journalRoute } from "./journal-route.ts";
import { outputRoute } from "./output-route.ts";
import type { Api, ApiParts } from "./parts.ts";
import { playerRoutes } from "./player-routes.ts";
import { poolRoutes } from "./pool-routes.ts";
import { sendProblem } from "./problems.ts";
import { ProcessFigures } from "./process-figures.ts";
import { queueRoutes } from "./queue-routes.ts";
import { roomRoutes } from "./room-routes.ts";
import { watchRoute } from "./watch-route.ts";

const security = [{ operatorToken: [] }];

/** What operators and the game's own back end ask. */
export async function operatorRoutes(api: Api, parts: ApiParts): Promise<void> {
  api.addHook("onRequest", async (request, reply) => {
    const refused = operatorRefusal(request, parts.access);
    if (refused) return sendProblem(reply, refused);
  });
  statusRoute(api, parts);
  roomRoutes(api, parts);
  playerRoutes(api, parts);
  queueRoutes(api, parts);
  poolRoutes(api, parts);
  buildRoutes(api, parts);
  instanceListRoutes(api, parts);
  outputRoute(api, parts);
  watchRoute(api, parts);
  journalRoute(api, parts);
  historyRoutes(api, parts);
}

function statusRoute(api: Api, parts: ApiParts): void {
  const schema = { tags: ["service"], security, summary: "The service in numbers.", response: { 200: StatusView } };
  const figures = new ProcessFigures();
  api.addHook("onClose", async () => figures.close());
  api.get("/v1/status", { schema }, async () => {
    const { runtime, config, version, startedAtMs, watchers } = parts;
    return runtime.query((harbor, atMs) => ({
      harbor: config.harbor,
      version,
      wire: WIRE_VERSION,
      accepts: config.players.builds,
      upMs: atMs - startedAtMs,
      ...countHarbor(harbor),
      watchers: watchers.count,
      connections: parts.connectionCount(),
      ...(config.instanceRelay.enabled && { relay: parts.relayFigures() }),
      process: figures.take(),
      journal: { ...runtime.journalStatus, ...faultOf(parts.journalFault()) },
    }));
  });
}

function countHarbor({ state, rules }: Harbor): Pick<StatusView, "players" | "lobbies" | "rooms" | "instances"> {
  const rooms = Object.fromEntries(Phase.options.map((phase) => [phase, 0])) as StatusView["rooms"];
  for (const room of state.rooms.byId.values()) rooms[room.stage.phase] += 1;
  const instances = Object.fromEntries(InstanceState.options.map((one) => [one, 0])) as StatusView["instances"];
  for (const instance of state.pools.instances.values()) instances[instance.state] += 1;
  const { here, byId } = state.players;
  return {
    players: { here, away: byId.size - here, limit: rules.players.limit },
    lobbies: [...rules.lobbies].map(([id, { title }]) => lobbySummary(state, id, title)),
    rooms,
    instances,
  };
}

function instanceListRoutes(api: Api, { runtime, journal }: ApiParts): void {
  const tags = ["instances"];
  const listSchema = {
    tags,
    security,
    querystring: InstanceQuery,
    response: { 200: InstancePage },
    summary: "Instances, the newest first; with ended=true also those that have ended.",
  };
  api.get("/v1/instances", { schema: listSchema }, async ({ query: { limit, after, state: wanted, ended } }) => {
    if (ended) {
      const before = after === undefined ? undefined : parseCursor(after);
      const instances = await journal.instanceRecords({ limit, before, state: wanted });
      return { instances, ...(instances.length === limit && { next: cursorOf(instances.at(-1)) }) };
    }
    const live = await runtime.query(({ state }) =>
      [...state.pools.instances.values()]
        .filter((one) => !one.gone && (wanted === undefined || one.state === wanted))
        .map(instanceView),
    );
    live.sort((a, b) => b.orderedAtMs - a.orderedAtMs || (a.id < b.id ? 1 : -1));
    const from = after === undefined ? 0 : live.findIndex((one) => cursorOf(one) === after) + 1;
    const page = live.slice(from, from + limit);
    return { instances: page, ...(from + limit < live.length && { next: cursorOf(page.at(-1)) }) };
  });

  const params = z.object({ instance: z.string().max(64) });
  const showSchema = {
    tags,
    security,
    summary: "One instance, also one that has ended.",
    params,
    response: { 200: InstanceView },
  };
  api.get("/v1/instances/:instance", { schema: showSchema }, async ({ params: { instance } }, reply) => {
    const live = await runtime.query(({ state }) => {
      const known = state.pools.instances.get(instance);
      return known && instanceView(known);
    });
    const view = live ?? (await journal.instanceRecord(instance));
    const detail = `There is no instance ${instance}; \`yh instance list --ended\` shows all there were.`;
    return view ?? sendProblem(reply, problem("instance-unknown", detail));
  });

  const drainSchema = {
    tags,
    security,
    params,
    body: DrainInstance,
    response: { 200: InstanceView },
    summary: "Have an instance take no new room, play its matches to the end, and stop.",
  };
  api.post("/v1/instances/:instance/drain", { schema: drainSchema }, async ({ params, body }, reply) => {
    const { instance: id } = params;
    const why = body.reason === undefined ? "drained by an operator" : `drained by an operator: ${body.reason}`;
    const settled = await runtime.ask({ do: "pool.drain", id, why });
    if ("refused" in settled) return sendProblem(reply, settled.refused);
    return runtime.query(({ state }) => {
      const known = state.pools.instances.get(id);
      if (known === undefined) throw new Error(`instance ${id} is gone right after it was asked to drain`);
      return instanceView(known);
    });
  });
}

const cursorOf = (view: InstanceView | undefined) =>
  view === undefined ? undefined : `${view.orderedAtMs}.${view.id}`;

function parseCursor(cursor: string): { orderedAtMs: number; id: string } {
  const dot = cursor.indexOf(".");
  return { orderedAtMs: Number(cursor.slice(0, dot)) || 0, id: cursor.slice(dot + 1) };
}

const faultOf = (fault: string | undefined) => (fault === undefined ? {} : { fault });
