import type { PlayerArgs, PlayerId, PlayerReply, SettingValue } from "@yellow-harbor/protocol";
import { accept, type Decision, type Refusal, type RoomsContext, refuse } from "../model/decision.ts";
import { attributesOf, type DeclaredAttributes } from "../model/players/attributes.ts";
import { settingFault } from "../model/setting-fault.ts";

/** What a player says of itself, as a merge patch: null brings an attribute back to its default. */
export function setAttributes(
  { state, rules }: RoomsContext,
  { player: id, args }: { readonly player: PlayerId; readonly args: PlayerArgs<"player.set-attributes"> },
): Decision<PlayerReply<"player.set-attributes">> {
  const player = state.players.byId.get(id);
  if (player === undefined) return refuse("player-unknown", "The player has left; connect again.");
  const declared = rules.players.attributes;
  const wanted = Object.entries(args.attributes);
  for (const [name, value] of wanted) {
    const against = whyNot(declared ?? {}, name, value);
    if (against) return against;
  }
  const before = player.attributes ?? {};
  const kept = Object.entries({ ...before, ...args.attributes }).filter(
    (entry): entry is [string, SettingValue] => entry[1] !== null,
  );
  const attributes = Object.fromEntries(kept);
  const isSame = JSON.stringify(attributes) === JSON.stringify(before);
  return accept(isSame ? [] : [{ kind: "player.attributes-set", player: id, attributes }], {
    reply: (after) => {
      const now = after.players.byId.get(id);
      return { attributes: now ? attributesOf(declared, now) : {} };
    },
  });
}

function whyNot(declared: DeclaredAttributes, name: string, value: SettingValue | null): Refusal | undefined {
  const schema = Object.hasOwn(declared, name) ? declared[name] : undefined;
  const path = `args.attributes.${name}`;
  if (schema === undefined) {
    const accepted = Object.keys(declared);
    const there = accepted.length === 0 ? "the game declares none" : `there are ${accepted.join(", ")}`;
    const fields = [{ path, message: "expected an attribute that the game declares" }];
    return refuse("attribute-unknown", `Players have no attribute ${name}; ${there}.`, { accepted, fields });
  }
  if (schema.readOnly) {
    return refuse("attribute-not-yours", `Attribute ${name} is what the game's own back end vouches for in the token.`);
  }
  const fault = value === null ? undefined : settingFault(schema, value);
  if (fault === undefined) return undefined;
  return refuse("attribute-invalid", `Attribute ${name} cannot be ${JSON.stringify(value)}: ${fault}.`, {
    fields: [{ path, message: fault }],
    ...(schema.type === "string" && schema.enum && { accepted: [...schema.enum] }),
  });
}
