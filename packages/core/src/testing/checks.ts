import assert from "node:assert/strict";
import type { Harbor } from "../harbor/harbor.ts";
import { lobbies } from "../lobbies/index.ts";
import { parties } from "../parties/index.ts";
import { rooms } from "../rooms/index.ts";
import type { TestHarbor } from "./test-harbor.ts";

/** As it goes over the wire: without prototypes. */
const onTheWire = (value: unknown): unknown => JSON.parse(JSON.stringify(value ?? null));

/** Every client that applies updates to its state holds exactly the server's state. */
export function checkStates(test: TestHarbor): void {
  const { state } = test.harbor;
  for (const [id, view] of test.views) {
    const player = state.players.byId.get(id);
    if (player?.presence !== "here") continue;
    const room = player.room === null ? undefined : state.rooms.byId.get(player.room);
    if (room) assert.deepEqual(onTheWire(view.room), onTheWire(rooms.views.room(state, room)));
    const party = state.parties.byId.get(state.parties.byPlayer.get(id) ?? "");
    assert.deepEqual(onTheWire(test.parties.get(id)), onTheWire(party && parties.views.party(party)));
    if (!room) assert.deepEqual(onTheWire(view.lobby), onTheWire(lobbies.views.lobby(state, player.lobby)));
  }
  assert.deepEqual(onTheWire(test.watched), onTheWire(test.harbor.view()), "who watches everything holds everything");
}

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
