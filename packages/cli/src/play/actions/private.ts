import type { PlayerClient } from "@yellow-harbor/client";
import type { PrivateEntryView, PrivateReaders } from "@yellow-harbor/protocol";
import { type Actions, jsonOf, memberAt, quiet, wrong } from "./action.ts";

const SET = "private-set KEY PLACE|SIDE JSON";
const REMOVE = "private-remove KEY";

/** What only some members of the room see. */
export const privateActions = {
  private: {
    usage: "private",
    about: "list what you see of the room that not all of it see",
    run: async (player) => ({ result: player.board.private, text: privateLines(player) }),
  },
  "private-set": {
    usage: SET,
    about: "set an entry that only the member at a place, or the members of a side, see beside you",
    run: async (player, [key, readers, ...words]) => {
      if (key === undefined || readers === undefined || words.length === 0) throw wrong(SET);
      return quiet(player.board.setPrivate(key, jsonOf(words.join(" ")), readersOf(player, readers)));
    },
  },
  "private-remove": {
    usage: REMOVE,
    about: "remove such an entry of yours",
    run: async (player, [key]) => {
      if (key === undefined) throw wrong(REMOVE);
      const { removed } = await player.board.removePrivate(key);
      return { result: { removed }, text: removed ? [] : [`You have no private entry ${key}.`] };
    },
  },
} satisfies Actions;

/** A number is a place; whatever else is said is a side. */
const readersOf = (player: PlayerClient, typed: string): PrivateReaders =>
  /^\d+$/.test(typed) ? { player: memberAt(player, typed, SET) } : { side: typed };

function privateLines(player: PlayerClient): string[] {
  const { private: all } = player.board;
  return all.length === 0 ? ["Nothing in this room is for you alone, or for your side."] : all.map(lineFor(player));
}

const nameFor =
  ({ state: { room }, id }: PlayerClient) =>
  (player: string): string =>
    player === id ? "you" : (room?.members[player]?.name ?? player);

function lineFor(player: PlayerClient): (entry: PrivateEntryView) => string {
  const name = nameFor(player);
  return ({ owner, key, to, value }) =>
    `${key}, ${owner === player.id ? "yours" : `of ${name(owner)}`}, for ${"side" in to ? `side ${to.side}` : name(to.player)}: ${JSON.stringify(value)}`;
}

/** What is new, and what is gone, of that which others have written. */
export function privateUpdateLines(
  player: PlayerClient,
  before: readonly PrivateEntryView[],
  now: readonly PrivateEntryView[],
): string[] {
  const ofOthers = (entries: readonly PrivateEntryView[]) => entries.filter(({ owner }) => owner !== player.id);
  const isIn = (entries: readonly PrivateEntryView[], one: PrivateEntryView) =>
    entries.some(({ owner, key }) => owner === one.owner && key === one.key);
  const written = ofOthers(now).filter((one) => !before.includes(one));
  const gone = ofOthers(before).filter((one) => !isIn(now, one));
  return [
    ...written.map(lineFor(player)),
    ...gone.map(({ owner, key }) => `${key}, of ${nameFor(player)(owner)}, is not for you any more.`),
  ];
}
