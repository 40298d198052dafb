import {
  Acknowledged,
  PlayerId,
  PlayerPage,
  PlayerPutOut,
  PlayersQuery,
  problem,
  Said,
  Say,
  SayToMany,
} from "@yellow-harbor/protocol";
import { z } from "zod";
import type { Api, ApiParts } from "./parts.ts";
import { sendProblem } from "./problems.ts";

const tags = ["players"];
const security = [{ operatorToken: [] }];

/** Players as operators see them, and how operators put one out. */
export function playerRoutes(api: Api, { runtime, notice }: ApiParts): void {
  const listSchema = {
    tags,
    security,
    summary: "Players, in the order of their ids.",
    querystring: PlayersQuery,
    response: { 200: PlayerPage },
  };
  api.get("/v1/players", { schema: listSchema }, async ({ query: { limit, after, name } }) =>
    runtime.query(({ state }) => {
      const wanted = name?.toLocaleLowerCase();
      const all = [...state.players.byId.values()].filter(
        (one) => wanted === undefined || one.name.toLocaleLowerCase() === wanted,
      );
      const sorted = all.sort((a, b) => (a.id < b.id ? -1 : 1));
      const rest = after === undefined ? sorted : sorted.filter((player) => player.id > after);
      const players = rest.slice(0, limit).map(({ id, name, build, lobby, presence, room, latency }) => {
        return { id, name, build, lobby, presence, ...(room !== null && { room }), ...latency };
      });
      return { players, ...(rest.length > limit && { next: players.at(-1)?.id }) };
    }),
  );

  const putOutSchema = {
    tags,
    security,
    params: z.object({ player: PlayerId }),
    body: PlayerPutOut,
    response: { 200: Acknowledged },
    summary:
      "Put a player out of the harbor: it is told why, its connection ends, and its token is worth nothing any more.",
  };
  api.post("/v1/players/:player/put-out", { schema: putOutSchema }, async ({ params, body }, reply) => {
    const settled = await runtime.ask({ do: "player.put-out", player: params.player, reason: body.reason });
    return "refused" in settled ? sendProblem(reply, settled.refused) : reply.send({});
  });

  const sayToOneSchema = {
    tags,
    security,
    params: z.object({ player: PlayerId }),
    body: Say,
    response: { 200: Said },
    summary: "Say something to a player.",
  };
  api.post("/v1/players/:player/say", { schema: sayToOneSchema }, async ({ params, body }, reply) => {
    const isKnown = await runtime.query(({ state }) => state.players.byId.has(params.player));
    if (!isKnown) {
      return sendProblem(reply, problem("player-unknown", `There is no player ${params.player}; it has left.`));
    }
    return { delivered: notice("player", [params.player], body.text) };
  });

  const sayToAllSchema = {
    tags,
    security,
    body: SayToMany,
    response: { 200: Said },
    summary: "Say something to everybody, or to all players of a lobby, in rooms or not.",
  };
  api.post("/v1/players/say", { schema: sayToAllSchema }, async ({ body: { lobby, text } }, reply) => {
    const { rules } = runtime;
    if (lobby !== undefined && !rules.lobbies.has(lobby)) {
      const accepted = [...rules.lobbies.keys()];
      const detail = `There is no lobby ${lobby}; the lobbies are ${accepted.join(", ")}.`;
      return sendProblem(reply, problem("lobby-unknown", detail, { accepted }));
    }
    const players = await runtime.query(({ state }) =>
      [...state.players.byId.values()].filter((one) => lobby === undefined || one.lobby === lobby).map((one) => one.id),
    );
    return { delivered: notice(lobby === undefined ? "harbor" : "lobby", players, text) };
  });
}
