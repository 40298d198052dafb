import type { DestinationKind, LevelView, RoomPolicy, SpreadPlan } from "@yellow-harbor/protocol";
import type { Room } from "../../model/rooms/state.ts";
import type { HarborRules } from "../../model/rules.ts";
import type { Random } from "../../model/stamp.ts";

/** A level as players are told of it, or undefined when the configuration has it no longer. */
export function levelView({ levels }: HarborRules, id: string): LevelView | undefined {
  const known = levels.get(id);
  if (known === undefined) return undefined;
  const { title, min, max, attributes } = known;
  return { id, title, min, max, ...(attributes && { attributes }) };
}

/** The next in the order of the room kind that suits as many as are in it; the next of all when none does. */
export function nextInOrder(rules: HarborRules, { kind, level, members }: Room): LevelView | undefined {
  const order = (rules.roomKinds.get(kind)?.levels ?? []).flatMap((id) => levelView(rules, id) ?? []);
  const present = order.findIndex(({ id }) => id === level?.id);
  const following = [...order.slice(present + 1), ...order.slice(0, present + 1)];
  return following.find(({ min, max }) => min <= members.size && members.size <= max) ?? following[0];
}

/** Destinations at which a level can be played in a room, in the order in which they are tried. */
export function destinationsOf({ levels }: HarborRules, { destinations }: RoomPolicy, id: string): DestinationKind[] {
  const level = levels.get(id);
  if (level === undefined) return [];
  return destinations.filter(
    (by) =>
      (level.destinations === null || level.destinations.includes(by)) && (by !== "dedicated" || level.pool !== null),
  );
}

const DEGREES = 360;

/** A spot for each place of the room, turned by chance. */
export function drawSpread({ levels }: HarborRules, room: Room, id: string, random: Random): SpreadPlan | null {
  const spread = levels.get(id)?.spread;
  if (spread == null) return null;
  return { ...spread, places: room.capacity, startDegrees: random.below(DEGREES) };
}
