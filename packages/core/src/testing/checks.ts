import type { PrivateEntryView } from "@yellow-harbor/protocol";
import type { Harbor } from "../harbor/harbor.ts";
import { lobbies } from "../lobbies/index.ts";
import { parties } from "../parties/index.ts";
import { privateEntries } from "../private-entries/index.ts";
import { rooms } from "../rooms/index.ts";
import type { TestHarbor } from "./test-harbor.ts";

/** As it goes over the wire, whatever the order of its members. */
const onTheWire = (value: unknown): string =>
  JSON.stringify(value ?? null, (_key, one: unknown) =>
    typeof one === "object" && one !== null && !Array.isArray(one)
      ? Object.fromEntries(Object.entries(one).sort(([a], [b]) => (a < b ? -1 : 1)))
      : one,
  );

const AROUND = 120;

/** Throws with the place at which what is held is not what there is. */
function mustEqual(held: unknown, there: unknown, what: string): void {
  // Mostly they are the same in the same order too, which is seen sooner.
  if (JSON.stringify(held) === JSON.stringify(there)) return;
  const [one, other] = [onTheWire(held), onTheWire(there)];
  if (one === other) return;
  const at = [...one].findIndex((letter, n) => letter !== other[n]);
  const near = (text: string) => text.slice(Math.max(0, at - AROUND), at + AROUND);
  throw new Error(`${what} is held as …${near(one)}… instead of …${near(other)}…`);
}

/** Every client that applies updates to its state holds exactly the server's state. */
export function checkStates(test: TestHarbor): void {
  const { state } = test.harbor;
  for (const [id, view] of test.views) {
    const player = state.players.byId.get(id);
    if (player?.presence !== "here") continue;
    const room = player.room === null ? undefined : state.rooms.byId.get(player.room);
    if (room) mustEqual(view.room, rooms.views.room(state, room), `the room of ${id}`);
    const party = state.parties.byId.get(state.parties.byPlayer.get(id) ?? "");
    mustEqual(test.parties.get(id), party && parties.views.party(party), `the party of ${id}`);
    const shown = room ? privateEntries.views.seenBy(state, room.id, id) : [];
    mustEqual(inOrder(test.privateEntries.get(id)?.entries ?? []), inOrder(shown), `what ${id} may read`);
    if (!room) mustEqual(view.lobby, lobbies.views.lobby(state, player.lobby), `the lobby of ${id}`);
  }
  mustEqual(test.watched, test.harbor.view(), "everything that is watched");
}

const inOrder = (entries: readonly PrivateEntryView[]) =>
  [...entries].sort((one, other) => (`${one.owner} ${one.key}` < `${other.owner} ${other.key}` ? -1 : 1));

/** The state without what its parts see of each other, which is the state again. */
export function withoutSeen(harbor: Harbor | undefined) {
  if (harbor === undefined) return undefined;
  const { seen: _, ...rest } = harbor.state;
  return rest;
}

/**
 * The state to be held against another. A deadline that fell due and changed nothing left no event: it is due once more
 * after a recovery, and changes nothing. Looks at queues and pools come again and again without events.
 */
export const plain = (harbor: Harbor, now: number) => {
  const { deadlines, seen: _, ...rest } = harbor.state;
  const due = [...deadlines.current.values()]
    .filter(({ at, kind }) => at > now && kind !== "queue-pass" && kind !== "plan-pool")
    .map(({ kind, subject, at }) => `${at} ${kind} ${subject}`)
    .sort();
  return { ...rest, due };
};
