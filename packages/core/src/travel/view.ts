import type {
  DestinationView,
  Patch,
  PlayerId,
  RoomUpdate,
  RunId,
  SpreadView,
  TravellerView,
  TravelView,
} from "@yellow-harbor/protocol";
import { spotsOf } from "@yellow-harbor/protocol";
import { assertNever } from "../model/decision.ts";
import type { Destination } from "../model/destination.ts";
import type { Room } from "../model/find-room.ts";
import type { Delivery } from "../model/push.ts";
import { only, recordOf } from "../model/record.ts";
import { audienceOf } from "../model/rooms/state.ts";
import type { RoomsPart } from "../model/state.ts";
import { isSeen, type TravelEvent } from "../model/travel/events.ts";
import { kindOf, type Travel, type Traveller } from "../model/travel/state.ts";
import { waitedFor } from "./barrier.ts";
import { owedPass } from "./passes.ts";

export function travelView(state: RoomsPart, run: RunId | null): TravelView | undefined {
  const travel = run === null ? undefined : state.travels.byRun.get(run);
  if (travel === undefined) return undefined;
  const room = state.rooms.byId.get(travel.room);
  const { level, calledAtMs, tried, from, stragglers } = travel;
  const spread = spreadView(room);
  return {
    run: travel.run,
    level: level.id,
    ...(level.attributes && { attributes: level.attributes }),
    calledAtMs,
    ...courseView(travel),
    tried: [...tried],
    ...(from && { from }),
    stragglers,
    travellers: recordOf([...travel.travellers.values()].map((one) => [one.id, travellerView(one)])),
    waitingFor: waitingIds(state, travel),
    ...(spread && { spread }),
  };
}

/** The part that changes with each step. */
function courseView(travel: Travel): Pick<TravelView, "step" | "deadlineMs" | "why" | "by"> & Partial<TravelView> {
  const { step, deadlineMs, why, destination, hosting } = travel;
  return {
    step,
    deadlineMs,
    why,
    by: kindOf(travel),
    ...(hosting && { player: hosting.player }),
    ...(destination && destinationView(destination)),
  };
}

export function destinationView(destination: Destination, room?: Room): DestinationView {
  const spread = spreadView(room);
  const more = spread && { spread };
  switch (destination.by) {
    case "relayed":
      return { by: "relayed", ...more };
    case "dedicated":
      return { ...destination, ...more };
    case "player-hosted": {
      const { by, player, addresses } = destination;
      const [address] = addresses;
      return { by, player, addresses: [...addresses], ...(address && { address }), ...more };
    }
    default:
      return assertNever(destination);
  }
}

/** Where the members appear in the level of the run. */
export function spreadView(room: Pick<Room, "stage"> | undefined): SpreadView | undefined {
  const plan = room && "run" in room.stage ? room.stage.spread : undefined;
  return plan == null ? undefined : { ...plan, spots: spotsOf(plan) };
}

const travellerView = ({ id, percent, arrived, trouble }: Traveller): TravellerView => ({
  id,
  percent,
  arrived,
  ...(trouble !== null && { trouble }),
});

const waitingIds = (state: RoomsPart, travel: Travel): PlayerId[] =>
  waitedFor(travel, state.rooms.byId.get(travel.room)?.members).map(({ id }) => id);

/** Whom the barrier waits for after a member's attention or presence has changed, for its room's view. */
export function waitingPatch(state: RoomsPart, run: RunId | null): Patch {
  const travel = run === null ? undefined : state.travels.byRun.get(run);
  return travel?.stragglers === "go-without" ? { travel: { waitingFor: waitingIds(state, travel) } } : {};
}

/** What the members have to be told about an event, from the state after it; with their passes when boarding begins. */
export function travelPushes(state: RoomsPart, event: TravelEvent): Delivery[] {
  const room = state.rooms.byId.get(event.room);
  if (room === undefined) return [];
  if (event.kind === "travel.berth-added") return passTo(state, room.id, [event.player.id]);
  if (!isSeen(event)) return [];
  const { update, patch } = updatesOf(state, event);
  const to = audienceOf(room);
  const pushes: Delivery[] = [{ scope: "room", id: room.id, to, revision: room.revision, update, patch }];
  return event.kind === "travel.boarding" ? [...pushes, ...passTo(state, room.id, to)] : pushes;
}

const passTo = (state: RoomsPart, room: string, players: readonly PlayerId[]): Delivery[] =>
  players.flatMap((player): Delivery[] => {
    const pass = owedPass(state, room, player);
    return pass === undefined ? [] : [{ scope: "pass", to: player, pass }];
  });

type Seen = Exclude<
  TravelEvent,
  { kind: `travel.${"pass-requested" | "berth-added" | "boarded" | "berth-freed" | "world-closed"}` }
>;

function updatesOf(state: RoomsPart, seen: TravelEvent): { update: RoomUpdate; patch: Patch } {
  const event = seen as Seen;
  const { run, room } = event;
  const travel = state.travels.byRun.get(run);
  const whole = () => ({ travel: travelView(state, run) });
  switch (event.kind) {
    case "travel.called":
      return { update: { kind: "travel-called", run }, patch: whole() };
    case "travel.retried":
      return { update: { kind: "travel-updated", run }, patch: anew(state, room, travel) };
    case "travel.rerouted": {
      const { by, why } = event;
      return { update: { kind: "travel-rerouted", run, by, why }, patch: anew(state, room, travel) };
    }
    case "travel.host-requested":
    case "travel.offered":
      return { update: { kind: "travel-updated", run }, patch: { travel: travel && courseView(travel) } };
    case "travel.joined":
      return { update: { kind: "travel-updated", run }, patch: travellersPatch(state, travel, event.player.id) };
    case "travel.forgot":
      return { update: { kind: "travel-updated", run }, patch: travellersPatch(state, travel, event.player) };
    case "travel.boarding":
      return { update: { kind: "travel-boarding", run }, patch: { travel: travel && courseView(travel) } };
    case "travel.progressed":
      return {
        update: { kind: "member-loading", player: event.player },
        patch: travellersPatch(state, travel, event.player),
      };
    case "travel.troubled": {
      const { player, why } = event;
      return { update: { kind: "member-troubled", player, why }, patch: travellersPatch(state, travel, player) };
    }
    case "travel.arrived": {
      const { player } = event;
      const members = only(player, { aboard: true });
      const { travel: patch } = travellersPatch(state, travel, player);
      const travellers = only(player, {
        trouble: null,
        ...((patch as { travellers: Patch }).travellers[player] as Patch),
      });
      return {
        update: { kind: "member-arrived", player },
        patch: { members, travel: { ...(patch as Patch), travellers } },
      };
    }
    case "travel.followed":
      return {
        update: { kind: "member-arrived", player: event.player },
        patch: { members: only(event.player, { aboard: true }) },
      };
    case "travel.ashore":
      return {
        update: { kind: "member-ashore", player: event.player },
        patch: { members: only(event.player, { aboard: null }) },
      };
    case "travel.completed":
      return { update: { kind: "travel-ended", run, completed: true }, patch: { travel: null } };
    case "travel.failed":
      return { update: { kind: "travel-ended", run, completed: false }, patch: { travel: null } };
    default:
      return assertNever(event);
  }
}

/** Everybody is on the way again, to somewhere else. */
function anew(state: RoomsPart, room: string, travel: Travel | undefined): Patch {
  if (travel === undefined) return {};
  const cleared = { instance: null, address: null, addresses: null, player: null };
  const travellers = recordOf(
    [...travel.travellers.values()].map((one) => [one.id, { trouble: null, ...travellerView(one) }]),
  );
  const members = [...(state.rooms.byId.get(room)?.members.keys() ?? [])];
  return {
    members: recordOf(members.map((id) => [id, { aboard: null }])),
    travel: {
      ...cleared,
      ...courseView(travel),
      tried: travel.tried,
      travellers,
      waitingFor: waitingIds(state, travel),
    },
  };
}

/** One traveller as it is now, or gone, and whom the barrier waits for. */
function travellersPatch(state: RoomsPart, travel: Travel | undefined, player: PlayerId): Patch {
  if (travel === undefined) return {};
  const traveller = travel.travellers.get(player);
  const view = traveller === undefined ? null : travellerView(traveller);
  return { travel: { travellers: only(player, view), waitingFor: waitingIds(state, travel) } };
}
