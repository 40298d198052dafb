import { banPage } from "@yellow-harbor/core";
import { isDevice, type OperatorRoutes, problem } from "@yellow-harbor/protocol";
import { networkOf } from "@yellow-harbor/reach";
import type { ApiParts } from "./parts.ts";
import type { Handlers } from "./serve-routes.ts";
import { callerNamed } from "./who.ts";

type BanRoutes = Pick<OperatorRoutes, "bans" | "createBan" | "banPlayer" | "liftBan">;

const HOUR_MS = 3_600_000;
const lasting = (hours: number | undefined) => (hours === undefined ? undefined : Math.ceil(hours * HOUR_MS));

/** Who may not come in: whoever is here and concerned goes at once. */
export function banHandlers({ runtime, addressOf, playersFrom }: ApiParts): Handlers<BanRoutes> {
  type Subject = { account: string } | { network: string; everybody: boolean };
  const ban = async (subject: Subject, more: { reason: string | undefined; hours: number | undefined; by: string }) => {
    const { reason, hours, by } = more;
    const settled = await runtime.ask({ do: "ban.set", subject, reason, forMs: lasting(hours), by });
    if ("refused" in settled) return settled;
    if ("network" in subject) await kickAll(subject, reason);
    return settled.reply;
  };
  // Addresses are known to the service alone, so it is the one who finds whom a network concerns.
  const kickAll = async ({ network, everybody }: { network: string; everybody: boolean }, reason?: string) => {
    const found = playersFrom(network);
    const concerned = await runtime.query(({ state }) =>
      found.filter((player) => {
        const identity = state.players.byId.get(player)?.identity;
        return everybody || identity == null || isDevice(identity.account);
      }),
    );
    for (const player of concerned) await runtime.ask({ do: "player.kick", player, reason });
  };
  return {
    bans: ({ query: { limit, after } }) => runtime.query(({ state }) => banPage(state, { limit, after })),

    createBan: ({ body: { account, network = "", everybody, reason, hours }, request }) =>
      ban(account === undefined ? { network, everybody } : { account }, { reason, hours, by: callerNamed(request) }),

    banPlayer: async ({ params: { player }, body: { reason, hours }, request }) => {
      const known = await runtime.query(({ state }) => state.players.byId.get(player));
      if (known === undefined) {
        const detail = `There is no player ${player}; it has left. Ban its account, or its network, with \`yh ban add\`.`;
        return { refused: problem("player-unknown", detail) };
      }
      const more = { reason, hours, by: callerNamed(request) };
      if (known.identity) return ban({ account: known.identity.account }, more);
      const from = addressOf(player);
      if (from === undefined) {
        const detail = `${known.name} is a guest without a device key and is not connected, so nothing is known to ban it by; kick it instead.`;
        return { refused: problem("player-unknown", detail) };
      }
      return ban({ network: networkOf(from), everybody: false }, more);
    },

    liftBan: async ({ params: { ban: id }, request }) => {
      const settled = await runtime.ask({ do: "ban.lift", ban: id, by: callerNamed(request) });
      return "refused" in settled ? settled : settled.reply;
    },
  };
}
