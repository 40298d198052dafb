import { z } from "zod";
import { PartyList, PartyQuery, PartyView } from "../parties.ts";
import type { HttpRoutes } from "./route.ts";

const tag = "parties";

/** Parties as operators and back ends see them. */
export const partyRoutes = {
  parties: {
    method: "GET",
    path: "/v1/parties",
    tag,
    needs: "look",
    summary: "Parties, the oldest first.",
    query: PartyQuery,
    reply: PartyList,
  },
  party: {
    method: "GET",
    path: "/v1/parties/:party",
    tag,
    needs: "look",
    summary: "One party, by its id or code, or by the id of one of its members.",
    params: z.object({ party: z.string().max(64).meta({ description: "Id or code of a party, or id of a player." }) }),
    reply: PartyView,
  },
} as const satisfies HttpRoutes;
