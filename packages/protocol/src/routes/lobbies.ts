import { z } from "zod";
import { RegionList } from "../regions.ts";
import { LevelView, LobbySummary } from "../views.ts";
import type { HttpRoutes } from "./route.ts";

const tag = "lobbies";

export const LobbyList = z.object({ lobbies: z.array(LobbySummary) }).meta({ id: "LobbyList" });
export type LobbyList = z.infer<typeof LobbyList>;

export const LevelList = z.object({ levels: z.array(LevelView) }).meta({ id: "LevelList" });
export type LevelList = z.infer<typeof LevelList>;

/** What there is to be in, and to play. */
export const lobbyRoutes = {
  lobbies: {
    method: "GET",
    path: "/v1/lobbies",
    tag,
    needs: "look",
    summary: "Lobbies in numbers, in the order of the configuration.",
    reply: LobbyList,
  },
  regions: {
    method: "GET",
    path: "/v1/regions",
    tag,
    needs: "look",
    summary: "Regions in which matches are played, in the order of the configuration.",
    reply: RegionList,
  },
  levels: {
    method: "GET",
    path: "/v1/levels",
    tag,
    needs: "look",
    summary: "Levels of the game, in the order of the configuration.",
    reply: LevelList,
  },
} as const satisfies HttpRoutes;
