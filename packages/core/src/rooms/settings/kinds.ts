import type { RoomKindView } from "@yellow-harbor/protocol";
import type { HarborRules } from "../../model/rules.ts";

/** The kinds of rooms of a lobby, or all of them, as clients have to know them. */
export function roomKinds({ roomKinds: kinds, lobbies }: HarborRules, lobby?: string): RoomKindView[] {
  const ids = lobby === undefined ? [...kinds.keys()] : (lobbies.get(lobby)?.roomKinds ?? []);
  return ids.flatMap((id): RoomKindView[] => {
    const kind = kinds.get(id);
    if (kind === undefined) return [];
    const { capacity, minPlayers, levels, levelBy, sides, settings, variants } = kind;
    return [
      {
        id,
        capacity,
        minPlayers,
        levels: [...levels],
        levelBy,
        ...(sides && { sides: { names: [...sides.names], max: sides.max } }),
        ...(settings && { settings: structuredCopy(settings) }),
        ...(Object.keys(variants).length > 0 && { variants: structuredCopy(variants) }),
      },
    ];
  });
}

/** Rules are frozen, and what is told may be anybody's. */
const structuredCopy = <T>(value: unknown): T => JSON.parse(JSON.stringify(value)) as T;
