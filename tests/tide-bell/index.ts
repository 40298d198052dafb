import { clearDeadline, setDeadline } from "../deadlines/index.ts";
import type { Exported } from "../model/capability.ts";
import { accept, type Decision, type DecisionContext, nothingToDo, refuse } from "../model/decision.ts";
import { roomOf } from "../model/find-room.ts";
import { decideBy } from "../model/handlers.ts";
import type { HarborState } from "../model/state.ts";
import type { BellCommand, BellEvent, Rung } from "./model.ts";

/** So long after it was rung the bell of a room has to rest. */
const RESTS_MS = 10_000;

/** A bell in each room that its host rings: the tide turns. */
export const bells = {
  names: ["bell"],
  newState: () => ({ bells: { byRoom: new Map() } }),
  decide: decideBy<BellCommand, HarborState>({ "bell.ring": ring, "bell.rest": rest }),
  apply,
  describe: ({ rooms }, event) => {
    if (event.kind === "bell.rested") return undefined;
    const room = rooms.byId.get(event.room);
    return `${room?.members.get(event.player)?.name} rings the tide bell of room ${room?.code}.`;
  },
  due: { "bell-rest": (room) => ({ do: "bell.rest", room }) },
  invariants: ({ bells, rooms }) =>
    [...bells.byRoom.keys()]
      .filter((room) => !rooms.byId.has(room))
      .map((room) => `a bell rings in ${room}, which is gone`),
  waits: ({ bells }) => [...bells.byRoom.keys()].map((room) => ["bell-rest", room] as const),
} satisfies Exported<BellCommand, BellEvent>;

function ring({ state, at }: DecisionContext, { player }: Extract<BellCommand, { do: "bell.ring" }>): Decision<Rung> {
  const found = roomOf(state, player, { hostOnly: "ring the tide bell" });
  if ("refused" in found) return found;
  const { id, code } = found.room;
  if (state.bells.byRoom.has(id)) {
    return refuse("wrong-phase", `The tide bell of room ${code} was rung a moment ago; let it rest.`);
  }
  const untilMs = at + RESTS_MS;
  return accept([{ kind: "bell.rung", room: id, player, untilMs }], { reply: () => ({ untilMs }) });
}

function rest({ state }: DecisionContext, { room }: Extract<BellCommand, { do: "bell.rest" }>): Decision {
  return state.bells.byRoom.has(room) ? accept([{ kind: "bell.rested", room }]) : nothingToDo;
}

function apply(state: HarborState, event: BellEvent): void {
  if (event.kind === "bell.rested") {
    state.bells.byRoom.delete(event.room);
    clearDeadline(state.deadlines, "bell-rest", event.room);
    return;
  }
  state.bells.byRoom.set(event.room, { rungBy: event.player });
  setDeadline(state.deadlines, "bell-rest", event.room, event.untilMs);
}
