import { banPage } from "@yellow-harbor/core";
import type { OperatorRoutes } from "@yellow-harbor/protocol";
import type { ApiParts } from "./parts.ts";
import { playerViews } from "./players.ts";
import type { Handlers } from "./serve-routes.ts";

type PeopleRoutes = Pick<OperatorRoutes, "exportPerson" | "erasePerson">;

const ALL = Number.MAX_SAFE_INTEGER;

/** What is kept of people, for those who ask for it. */
export const peopleHandlers = ({ runtime, history }: ApiParts): Handlers<PeopleRoutes> => ({
  exportPerson: async ({ params: { who } }) => {
    const kept = await history.personEvents(who);
    const { players, account } = kept;
    const now = await runtime.query(({ state }) => ({
      present: playerViews(
        state,
        players.flatMap((id) => state.players.byId.get(id) ?? []),
      ),
      bans: banPage(state, { limit: ALL }).bans.filter((ban) => account !== undefined && ban.account === account),
    }));
    return { ...kept, ...now };
  },

  erasePerson: async ({ params: { who } }) => {
    const { players, account } = await history.personEvents(who);
    // Nothing of the state may name it any more when what is kept is gone through.
    for (const player of players) await runtime.ask({ do: "player.kick", player, reason: "your data was erased" });
    await runtime.ask({ do: "friends.forget", account, players });
    return runtime.betweenSnapshots(() => history.erasePerson(who));
  },
});
