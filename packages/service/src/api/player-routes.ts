import { Acknowledged, PageQuery, PlayerId, PlayerPage, PlayerPutOut } from "@yellow-harbor/protocol";
import { z } from "zod";
import type { Api, ApiParts } from "./parts.ts";
import { sendProblem } from "./problems.ts";

const tags = ["players"];
const security = [{ operatorToken: [] }];

/** Players as operators see them, and how operators put one out. */
export function playerRoutes(api: Api, { runtime }: ApiParts): void {
  const listSchema = {
    tags,
    security,
    summary: "Players, in the order of their ids.",
    querystring: PageQuery,
    response: { 200: PlayerPage },
  };
  api.get("/v1/players", { schema: listSchema }, async ({ query: { limit, after } }) =>
    runtime.query(({ state }) => {
      const sorted = [...state.players.byId.values()].sort((a, b) => (a.id < b.id ? -1 : 1));
      const rest = after === undefined ? sorted : sorted.filter((player) => player.id > after);
      const players = rest.slice(0, limit).map(({ id, name, build, lobby, presence, room }) => {
        return { id, name, build, lobby, presence, ...(room !== null && { room }) };
      });
      return { players, ...(rest.length > limit && { next: players.at(-1)?.id }) };
    }),
  );

  const putOutSchema = {
    ...{ tags, security, params: z.object({ player: PlayerId }), body: PlayerPutOut, response: { 200: Acknowledged } },
    summary:
      "Put a player out of the harbor: it is told why, its connection ends, and its token is worth nothing any more.",
  };
  api.post("/v1/players/:player/put-out", { schema: putOutSchema }, async ({ params, body }, reply) => {
    const settled = await runtime.ask({ do: "player.put-out", player: params.player, reason: body.reason });
    return "refused" in settled ? sendProblem(reply, settled.refused) : reply.send({});
  });
}
