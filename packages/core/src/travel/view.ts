import type { Patch, RoomNews, RunId, TravelView } from "@yellow-harbor/protocol";
import { assertNever } from "../harbor/decision.ts";
import type { Push } from "../harbor/push.ts";
import type { HarborState } from "../harbor/state.ts";
import { owedPass } from "../pools/index.ts";
import type { TravelEvent } from "./events.ts";

export function travelView(state: HarborState, run: RunId | null): TravelView | undefined {
  const travel = run === null ? undefined : state.travels.byRun.get(run);
  if (travel === undefined) return undefined;
  const { level, step, deadlineMs, destination } = travel;
  return {
    run: travel.run,
    level: level.id,
    step,
    deadlineMs,
    ...(destination && { instance: destination.instance, address: destination.address }),
    waitingFor: [...travel.travellers.values()].filter((one) => !one.arrived).map((one) => one.id),
  };
}

/** What the members have to be told about an event, from the state after it; with their passes when boarding begins. */
export function travelPushes(state: HarborState, event: TravelEvent): Push[] {
  const room = state.rooms.byId.get(event.room);
  if (room === undefined) return [];
  const { news, patch } = newsOf(state, event);
  const to = [...room.members.keys()];
  const pushes: Push[] = [{ scope: "room", id: room.id, to, revision: room.revision, news, patch }];
  if (event.kind !== "travel.boarding") return pushes;
  for (const player of to) {
    const pass = owedPass(state, room.id, player);
    if (pass) pushes.push({ scope: "pass", to: player, pass });
  }
  return pushes;
}

function newsOf(state: HarborState, event: TravelEvent): { news: RoomNews; patch: Patch } {
  const { run } = event;
  const travel = travelView(state, run);
  switch (event.kind) {
    case "travel.called":
      return { news: { kind: "travel-called", run }, patch: { travel } };
    case "travel.retried":
    case "travel.joined":
    case "travel.forgot":
      return { news: { kind: "travel-updated", run }, patch: { travel } };
    case "travel.boarding":
      return { news: { kind: "travel-boarding", run }, patch: { travel } };
    case "travel.arrived":
      return {
        news: { kind: "member-arrived", player: event.player },
        patch: { travel: { waitingFor: travel?.waitingFor } },
      };
    case "travel.completed":
      return { news: { kind: "travel-ended", run, completed: true }, patch: { travel: null } };
    case "travel.failed":
      return { news: { kind: "travel-ended", run, completed: false }, patch: { travel: null } };
    default:
      return assertNever(event);
  }
}
