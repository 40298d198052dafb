import { levelView, lobbySummary, regionViews } from "@yellow-harbor/core";
import type { OperatorRoutes } from "@yellow-harbor/protocol";
import type { ApiParts } from "./parts.ts";
import type { Handlers } from "./serve-routes.ts";

/** What there is to be in, and to play. */
export const lobbyHandlers = ({
  runtime,
}: ApiParts): Handlers<Pick<OperatorRoutes, "lobbies" | "levels" | "regions">> => ({
  lobbies: () =>
    runtime.query(({ state, rules }) => ({
      lobbies: [...rules.lobbies].map(([id, { title }]) => lobbySummary(state, id, title)),
    })),
  regions: () => ({ regions: regionViews(runtime.rules) }),
  levels: () => ({ levels: [...runtime.rules.levels.keys()].flatMap((id) => levelView(runtime.rules, id) ?? []) }),
});
