import { type HarborState, moderatedRoom } from "@yellow-harbor/core";
import type { PlayerId } from "@yellow-harbor/protocol";
import type { Deed } from "../keys/audit.ts";
import type { JournaledRequest } from "./dispatch.ts";

/** What a moderator is about to do in a room of others, for the audit log; undefined for everything else. */
export function deedOf(
  state: HarborState,
  player: PlayerId,
  request: JournaledRequest,
  from: string,
): Omit<Deed, "result"> | undefined {
  if (request.ask !== "room.kick" && request.ask !== "room.unban") return undefined;
  const room = moderatedRoom(state, player);
  const moderator = state.players.byId.get(player);
  if (room === undefined || moderator === undefined) return undefined;
  const { name, identity } = moderator;
  return {
    actor: { by: "moderator", name, ...(identity && { id: identity.account }) },
    from,
    action: request.ask,
    target: `${request.args.player} ${room.id}`,
    ...("reason" in request.args && { reason: request.args.reason }),
  };
}
