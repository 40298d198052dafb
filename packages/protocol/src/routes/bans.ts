import { z } from "zod";
import { BanList, BanPlayer, BanView, CreateBan } from "../accounts.ts";
import { BanId, PlayerId } from "../ids.ts";
import { PageQuery } from "../operator-api.ts";
import type { HttpRoutes } from "./route.ts";

const operates = { tag: "bans", needs: "operate" } as const;

/** Bans from the harbor. */
export const banRoutes = {
  bans: {
    method: "GET",
    path: "/v1/bans",
    tag: "bans",
    needs: "look",
    summary: "Bans that count now, in the order of their ids.",
    query: PageQuery,
    reply: BanList,
  },
  createBan: {
    ...operates,
    method: "POST",
    path: "/v1/bans",
    summary:
      "Ban an account, or an address or network: whoever is here is kicked and told why, and may not come again.",
    body: CreateBan,
    example: { account: "game:4711", reason: "cheating", hours: 72 },
    reply: BanView,
  },
  banPlayer: {
    ...operates,
    method: "POST",
    path: "/v1/players/:player/ban",
    summary: "Ban a player by its account; a guest without a device key by the network it comes from.",
    params: z.object({ player: PlayerId }),
    body: BanPlayer,
    example: { reason: "cheating", hours: 72 },
    reply: BanView,
  },
  liftBan: {
    ...operates,
    method: "POST",
    path: "/v1/bans/:ban/lift",
    summary: "Lift a ban.",
    params: z.object({ ban: BanId }),
    reply: BanView,
  },
} as const satisfies HttpRoutes;
