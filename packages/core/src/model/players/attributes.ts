import type { PlayerAttributes, SettingSchema } from "@yellow-harbor/protocol";
import { settingFault } from "../setting-fault.ts";
import type { Player } from "./state.ts";

/** What the game declares that its players may have. */
export type DeclaredAttributes = Readonly<Record<string, SettingSchema>>;

/**
 * What others see of a player: the defaults, then what it says itself, then what its token vouches for. What does not fit
 * what is declared now is left out.
 */
export function attributesOf(
  declared: DeclaredAttributes | null,
  { attributes = {}, identity }: Pick<Player, "attributes" | "identity">,
): PlayerAttributes {
  const found = Object.entries(declared ?? {}).flatMap(([name, schema]) => {
    const vouched = identity?.vouched[name];
    const said = schema.readOnly ? undefined : attributes[name];
    const fitting = [vouched, said].find((one) => isScalar(one) && settingFault(schema, one) === undefined);
    const value = fitting ?? schema.default;
    return value === undefined ? [] : [[name, value] as const];
  });
  return Object.fromEntries(found) as PlayerAttributes;
}

const isScalar = (value: unknown): value is string | number | boolean =>
  typeof value === "string" || typeof value === "number" || typeof value === "boolean";

/** What a player brings, with what is declared, as it is told itself. */
export const ownAttributes = (
  { players: { attributes: declared } }: { readonly players: { readonly attributes: DeclaredAttributes | null } },
  player: Pick<Player, "attributes" | "identity"> | undefined,
): { attributes: PlayerAttributes; declared: Record<string, SettingSchema> } => ({
  attributes: player ? attributesOf(declared, player) : {},
  declared: { ...declared },
});

/** "lantern amber, stones 4", or what is said when there is nothing. */
export const attributesText = (attributes: PlayerAttributes, nothing: string): string => {
  const said = Object.entries(attributes).map(([name, value]) => `${name} ${value}`);
  return said.length === 0 ? nothing : said.join(", ");
};
