import { type HarborState, type Player, relationsView } from "@yellow-harbor/core";
import { type OperatorRoutes, type PlayerView, problem } from "@yellow-harbor/protocol";
import type { ApiParts } from "./parts.ts";
import type { Handlers } from "./serve-routes.ts";

type PlayerRoutes = Pick<
  OperatorRoutes,
  "players" | "player" | "relations" | "setRelations" | "moveToLobby" | "kick" | "notifyPlayer" | "notifyAll"
>;

/** Players as operators see them. */
export const playerViews = ({ parties }: HarborState, players: readonly Player[]): PlayerView[] =>
  players.map(({ id, name, build, lobby, presence, room, latency, identity }) => ({
    id,
    name,
    ...(identity && { account: identity.account }),
    build,
    lobby,
    presence,
    ...(room !== null && { room }),
    ...optional(parties.byPlayer.get(id)),
    ...latency,
  }));

const optional = (party: string | undefined) => party !== undefined && { party };

const hasPart = ({ id, name, identity }: Player, part: string): boolean =>
  part === "" ||
  name.toLocaleLowerCase().includes(part) ||
  id.includes(part) ||
  (identity?.account.toLocaleLowerCase().includes(part) ?? false);

/** The player of an id, or of an account. */
const idOf = ({ players }: HarborState, named: string): string | undefined =>
  players.byAccount.get(named) ?? players.byId.get(named)?.id;

const unknown = (named: string) => ({
  refused: problem("player-unknown", `There is no player ${named}; \`yh player list\` shows those there are.`),
});

/** Players as operators see them, and what operators may do to one. */
export const playerHandlers = ({ runtime, notice }: ApiParts): Handlers<PlayerRoutes> => {
  const viewOf = async (named: string) => {
    const found = await runtime.query(({ state }) => {
      const player = state.players.byId.get(idOf(state, named) ?? "");
      return player && playerViews(state, [player]);
    });
    return found?.[0] ?? unknown(named);
  };
  return {
    players: ({ query: { limit, after, name, search, lobby, presence } }) =>
      runtime.query(({ state }) => {
        const wanted = name?.toLocaleLowerCase();
        const part = search?.toLocaleLowerCase() ?? "";
        const all = [...state.players.byId.values()].filter(
          (one) =>
            (wanted === undefined || one.name.toLocaleLowerCase() === wanted) &&
            hasPart(one, part) &&
            (lobby === undefined || one.lobby === lobby) &&
            (presence === undefined || one.presence === presence),
        );
        const sorted = all.sort((a, b) => (a.id < b.id ? -1 : 1));
        const rest = after === undefined ? sorted : sorted.filter((player) => player.id > after);
        const players = playerViews(state, rest.slice(0, limit));
        return { players, ...(rest.length > limit && { next: players.at(-1)?.id }) };
      }),

    player: ({ params }) => viewOf(params.player),

    relations: async ({ params }) => {
      const found = await runtime.query(({ state }) => {
        const id = idOf(state, params.player);
        return id === undefined ? undefined : relationsView(state, id);
      });
      return found ?? unknown(params.player);
    },

    setRelations: async ({ params, body }) => {
      const player = await runtime.query(({ state }) => idOf(state, params.player));
      if (player === undefined) return unknown(params.player);
      const settled = await runtime.ask({ do: "friends.set", player, set: body });
      return "refused" in settled ? settled : settled.reply;
    },

    moveToLobby: async ({ params, body: { lobby } }) => {
      const player = await runtime.query(({ state }) => idOf(state, params.player));
      if (player === undefined) return unknown(params.player);
      const settled = await runtime.ask({ do: "player.move-to-lobby", player, lobby });
      return "refused" in settled ? settled : viewOf(params.player);
    },

    kick: async ({ params: { player }, body: { reason } }) => {
      const settled = await runtime.ask({ do: "player.kick", player, reason });
      return "refused" in settled ? settled : settled.reply;
    },

    notifyPlayer: async ({ params: { player }, body: { text } }) => {
      const isKnown = await runtime.query(({ state }) => state.players.byId.has(player));
      if (!isKnown) return { refused: problem("player-unknown", `There is no player ${player}; it has left.`) };
      return { delivered: notice("player", [player], text) };
    },

    notifyAll: async ({ body: { lobby, text } }) => {
      const { rules } = runtime;
      if (lobby !== undefined && !rules.lobbies.has(lobby)) {
        const accepted = [...rules.lobbies.keys()];
        const detail = `There is no lobby ${lobby}; the lobbies are ${accepted.join(", ")}.`;
        return { refused: problem("lobby-unknown", detail, { accepted }) };
      }
      const players = await runtime.query(({ state }) =>
        [...state.players.byId.values()]
          .filter((one) => lobby === undefined || one.lobby === lobby)
          .map((one) => one.id),
      );
      return { delivered: notice(lobby === undefined ? "harbor" : "lobby", players, text) };
    },
  };
};
