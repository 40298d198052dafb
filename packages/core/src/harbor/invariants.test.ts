import { describe, expect, it } from "vitest";
import { clearDeadline } from "../deadlines/index.ts";
import { runOf } from "../model/find-room.ts";
import type { HarborState } from "../model/state.ts";
import { bringUp, joinRoom, openRoom, startRoom } from "../testing/scenes.ts";
import { TestHarbor } from "../testing/test-harbor.ts";
import { invariantViolations } from "./invariants.ts";

/** Two in a room that travels to an instance, and one in the lobby. */
function sound() {
  const test = new TestHarbor();
  const [ansel, brisa] = [test.connect("Ansel"), test.connect("Brisa")];
  test.connect("Corin");
  const room = openRoom(test, ansel);
  joinRoom(test, room, brisa);
  startRoom(test, room);
  bringUp(test, room);
  return { state: test.harbor.state, ansel, brisa, room };
}

/** The room is on another run than its travel. */
function leaveRun(state: HarborState, id: string): void {
  const room = state.rooms.byId.get(id);
  if (room?.stage.phase === "travelling") room.stage = { ...room.stage, run: "u_none" };
}

/** Damage that no command can do, and the fault that tells of it. */
const damages: readonly [fault: RegExp, (state: HarborState, of: ReturnType<typeof sound>) => void][] = [
  [
    /cannot be found by its account/,
    (state, { ansel }) =>
      Object.assign(state.players.byId.get(ansel) ?? {}, { identity: { account: "game:1", roles: [], vouched: {} } }),
  ],
  [/are counted as here/, (state) => void Object.assign(state.players, { here: state.players.here + 1 })],
  [/is found and is not there/, (state) => void state.bans.byAccount.set("game:1", "x_none")],
  [/the host is no member/, (state, { room, ansel }) => void state.rooms.byId.get(room)?.members.delete(ansel)],
  [/is said to be in null/, (state, { ansel }) => Object.assign(state.players.byId.get(ansel) ?? {}, { room: null })],
  [
    /two members have one place/,
    (state, { room, brisa }) => {
      Object.assign(state.rooms.byId.get(room)?.members.get(brisa) ?? {}, { place: 0 });
    },
  ],
  [/travelling without a travel/, (state) => state.travels.byRun.clear()],
  [/belongs to no run/, (state, { room }) => leaveRun(state, room)],
  [/cannot be found by its code/, (state) => state.rooms.byCode.clear()],
  [/stray in the index/, (state, { room }) => void state.rooms.open.set("a", new Map([[1, new Set([room])]]))],
  [/counted in its rooms/, (state) => Object.assign(state.lobbies.byId.get("quayside") ?? {}, { inRooms: 7 })],
  [/is in it and in a room, or in neither/, (state) => state.lobbies.byId.get("quayside")?.standing.clear()],
  [
    /is that of .* too/,
    (state) => {
      const [instance] = state.pools.instances.values();
      if (instance) state.pools.instances.set("i_copy", { ...instance, id: "i_copy" });
    },
  ],
  [/does not know of room/, (state) => [...state.pools.instances.values()][0]?.holds.clear()],
  [/counted, 1 there/, (state) => void state.pools.live.set("sluice", 5)],
  [
    /without its deadline/,
    (state, { room }) => {
      clearDeadline(state.deadlines, "travel-step", runOf(state.rooms.byId.get(room)) ?? "");
    },
  ],
];

describe("the invariants of a state", () => {
  it("is found in one that came about by commands", () => {
    expect(invariantViolations(sound().state)).toEqual([]);
  });

  it.each(damages)("is missed: %s", (fault, damage) => {
    const scene = sound();
    damage(scene.state, scene);
    expect(invariantViolations(scene.state).join("; ")).toMatch(fault);
  });
});
