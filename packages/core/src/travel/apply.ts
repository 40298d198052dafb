import { clearDeadline, setDeadline } from "../deadlines/index.ts";
import { assertNever } from "../harbor/decision.ts";
import type { HarborState } from "../harbor/state.ts";
import type { TravelEvent } from "./events.ts";
import type { Travel } from "./state.ts";

export function applyTravel(state: HarborState, event: TravelEvent, at: number): void {
  if (event.kind === "travel.called") return call(state, event, at);
  const travel = travelOf(state, event.run);
  switch (event.kind) {
    case "travel.retried":
      travel.attempt = event.attempt;
      return;
    case "travel.boarding":
      travel.step = "boarding";
      travel.destination = { instance: event.instance, address: event.address };
      travel.deadlineMs = event.deadlineMs;
      setDeadline(state.deadlines, "travel-step", travel.run, event.deadlineMs);
      return;
    case "travel.arrived": {
      const traveller = travel.travellers.get(event.player);
      if (traveller) traveller.arrived = true;
      return;
    }
    case "travel.joined":
      travel.travellers.set(event.player.id, { ...event.player, arrived: false });
      return;
    case "travel.forgot":
      travel.travellers.delete(event.player);
      return;
    case "travel.completed":
    case "travel.failed":
      state.travels.byRun.delete(travel.run);
      clearDeadline(state.deadlines, "travel-step", travel.run);
      return;
    default:
      assertNever(event);
  }
}

function call(state: HarborState, event: Extract<TravelEvent, { kind: "travel.called" }>, at: number): void {
  const { run, room, level, pool, travellers, deadlineMs } = event;
  state.travels.byRun.set(run, {
    ...{ run, room, level, pool, deadlineMs, calledAtMs: at },
    travellers: new Map(travellers.map((traveller) => [traveller.id, { ...traveller, arrived: false }])),
    step: "preparing",
    attempt: 1,
    destination: null,
  });
  setDeadline(state.deadlines, "travel-step", run, deadlineMs);
}

function travelOf(state: HarborState, run: string): Travel {
  const travel = state.travels.byRun.get(run);
  if (travel === undefined) throw new Error(`event about unknown travel ${run}`);
  return travel;
}
