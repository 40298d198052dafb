import type { PlayerArgs, PlayerId, PlayerReply } from "@yellow-harbor/protocol";
import { accept, type Decision, type RoomsContext, refuse } from "../model/decision.ts";
import { attributesOf } from "../model/players/attributes.ts";
import { patchAttributes } from "../model/players/patch-attributes.ts";

/** What a player says of itself, as a merge patch: null brings an attribute back to its default. */
export function setAttributes(
  { state, rules }: RoomsContext,
  { player: id, args }: { readonly player: PlayerId; readonly args: PlayerArgs<"player.set-attributes"> },
): Decision<PlayerReply<"player.set-attributes">> {
  const player = state.players.byId.get(id);
  if (player === undefined) return refuse("player-unknown", "The player has left; connect again.");
  const declared = rules.players.attributes;
  const before = player.attributes ?? {};
  const patched = patchAttributes(declared, before, args.attributes);
  if ("refused" in patched) return patched;
  const { attributes } = patched;
  const isSame = JSON.stringify(attributes) === JSON.stringify(before);
  return accept(isSame ? [] : [{ kind: "player.attributes-set", player: id, attributes }], {
    reply: (after) => {
      const now = after.players.byId.get(id);
      return { attributes: now ? attributesOf(declared, now) : {} };
    },
  });
}
