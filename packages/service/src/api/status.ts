import { type Harbor, lobbySummary } from "@yellow-harbor/core";
import { InstanceState, type OperatorRoutes, Phase, type StatusView, WIRE_VERSION } from "@yellow-harbor/protocol";
import { ProcessFigures } from "../process-figures.ts";
import type { ApiParts } from "./parts.ts";
import type { Handler, Handlers } from "./serve-routes.ts";

/** What somebody should look at. */
export const alertHandlers = ({ alerts, series }: ApiParts): Handlers<Pick<OperatorRoutes, "alerts" | "series">> => ({
  alerts: () => ({ alerts: alerts.raised }),
  series: ({ query: { span } }) => series.read(span),
});

/** The service in numbers. `close` ends what measures the process. */
export function statusHandler(parts: ApiParts): { handler: Handler<OperatorRoutes["status"]>; close: () => void } {
  const figures = new ProcessFigures();
  const handler = () => {
    const { runtime, version, startedAtMs, watchers } = parts;
    const config = parts.inForce.current;
    return runtime.query((harbor, atMs) => ({
      harbor: config.harbor,
      version,
      wire: WIRE_VERSION,
      accepts: config.players.builds,
      upMs: atMs - startedAtMs,
      ...countHarbor(harbor),
      wrongKeys: wrongKeysOf(parts),
      keysInTwoPlaces: { count: parts.twoPlaces.count, ...(parts.twoPlaces.last && { last: parts.twoPlaces.last }) },
      alerts: parts.alerts.raised,
      watchers: watchers.count,
      connections: parts.connectionCount(),
      ...lineOf(parts),
      ...(config.instanceRelay.enabled && { relay: parts.relayFigures() }),
      process: figures.take(),
      ...workersOf(parts),
      journal: { ...runtime.journalStatus, ...faultOf(parts.journalFault()) },
    }));
  };
  return { handler, close: () => figures.close() };
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

function wrongKeysOf({ access: { wrongKeys } }: ApiParts): StatusView["wrongKeys"] {
  const { count, last } = wrongKeys;
  return { count, ...(last && { lastFrom: last.from, lastAtMs: last.atMs }) };
}

function lineOf({ waitingLine: { size, oldestSinceMs } }: ApiParts): Pick<StatusView, "waitingLine"> {
  return oldestSinceMs === undefined ? {} : { waitingLine: { players: size, oldestSinceMs } };
}

function workersOf(parts: ApiParts): Pick<StatusView, "workers"> {
  const workers = parts.workers();
  return workers === undefined ? {} : { workers };
}

const faultOf = (fault: string | undefined) => (fault === undefined ? {} : { fault });
