import { partyView } from "@yellow-harbor/core";
import { type OperatorRoutes, PartyCode, problem } from "@yellow-harbor/protocol";
import type { ApiParts } from "./parts.ts";
import type { Handlers } from "./serve-routes.ts";

type PartyRoutes = Pick<OperatorRoutes, "parties" | "party">;

/** Parties as operators and back ends see them. */
export const partyHandlers = ({ runtime }: ApiParts): Handlers<PartyRoutes> => ({
  parties: ({ query: { lobby, limit } }) => {
    const { rules } = runtime;
    if (lobby !== undefined && !rules.lobbies.has(lobby)) {
      const accepted = [...rules.lobbies.keys()];
      const detail = `There is no lobby ${lobby}; the lobbies are ${accepted.join(", ")}.`;
      return { refused: problem("lobby-unknown", detail, { accepted }) };
    }
    return runtime.query(({ state }) => {
      const all = [...state.parties.byId.values()].filter((one) => lobby === undefined || one.lobby === lobby);
      return { parties: all.slice(0, limit).map(partyView), total: all.length };
    });
  },

  party: async ({ params: { party: wanted } }) => {
    const found = await runtime.query(({ state: { parties } }) => {
      const code = PartyCode.safeParse(wanted).data ?? "";
      const id = parties.byPlayer.get(wanted) ?? parties.byCode.get(code) ?? wanted;
      const party = parties.byId.get(id);
      return party && partyView(party);
    });
    const detail = `There is no party ${wanted}; \`yh party list\` shows those there are.`;
    return found ?? { refused: problem("party-unknown", detail) };
  },
});
