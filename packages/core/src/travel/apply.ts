import { clearDeadline, setDeadline } from "../deadlines/index.ts";
import type { Berth } from "../model/berth.ts";
import { assertNever } from "../model/decision.ts";
import type { RoomsPart } from "../model/state.ts";
import type { TravelEvent } from "../model/travel/events.ts";
import type { Travel, Traveller } from "../model/travel/state.ts";

type Of<K extends TravelEvent["kind"]> = Extract<TravelEvent, { kind: K }>;
type AfterEvent =
  Of<`travel.${"followed" | "ashore" | "pass-requested" | "berth-added" | "boarded" | "berth-freed" | "world-closed"}`>;

export function applyTravel(state: RoomsPart, event: TravelEvent, at: number): void {
  switch (event.kind) {
    case "travel.called":
      return call(state, event, at);
    case "travel.followed":
    case "travel.ashore":
    case "travel.pass-requested":
    case "travel.berth-added":
    case "travel.boarded":
    case "travel.berth-freed":
    case "travel.world-closed":
      return applyAfter(state, event);
    default:
      return applyUnderWay(state, travelOf(state, event.run), event);
  }
}

function applyUnderWay(
  state: RoomsPart,
  travel: Travel,
  event: Exclude<TravelEvent, AfterEvent | Of<"travel.called">>,
): void {
  const traveller =
    "player" in event && typeof event.player === "string" ? travel.travellers.get(event.player) : undefined;
  switch (event.kind) {
    case "travel.retried":
      travel.attempt = event.attempt;
      return beginAgain(state, travel, event.deadlineMs ?? travel.deadlineMs);
    case "travel.rerouted":
      travel.tried = [...travel.tried, { by: travel.options[travel.option] ?? "dedicated", why: event.why }];
      travel.option = travel.options.indexOf(event.by, travel.option + 1);
      travel.attempt = 1;
      travel.why = `${travel.tried.length === 1 ? "the one before" : "those before"} failed`;
      return beginAgain(state, travel, event.deadlineMs);
    case "travel.host-requested":
      travel.hosting = { player: event.player, offered: null };
      return;
    case "travel.offered":
      travel.hosting = { player: event.player, offered: event.addresses };
      return;
    case "travel.boarding":
      return beginBoarding(state, travel, event);
    case "travel.progressed":
      if (traveller) traveller.percent = event.percent;
      return;
    case "travel.troubled":
      if (traveller) traveller.trouble = event.why;
      return;
    case "travel.arrived":
      if (traveller) {
        traveller.arrived = true;
        traveller.percent = 100;
        traveller.trouble = null;
      }
      return;
    case "travel.joined":
      travel.travellers.set(event.player.id, { ...event.player, ...FRESH });
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

/** What may come when the barrier is open already. */
function applyAfter(state: RoomsPart, event: AfterEvent): void {
  const world = state.travels.worlds.get(event.room);
  switch (event.kind) {
    case "travel.followed":
    case "travel.ashore":
    case "travel.pass-requested":
      return;
    case "travel.berth-added": {
      const { player, pass, expiresAtMs, spectator } = event;
      const berth: Berth = { ...berthOf(player, pass), expiresAtMs, ...(spectator && { spectator }) };
      world?.berths.set(player.id, berth);
      return;
    }
    case "travel.boarded": {
      const berth = world?.berths.get(event.player);
      if (berth) {
        berth.state = "taken";
        berth.attempt = event.attempt ?? null;
      }
      return;
    }
    case "travel.berth-freed":
      world?.berths.delete(event.player);
      return;
    case "travel.world-closed":
      state.travels.worlds.delete(event.room);
      return;
  }
}

const FRESH = { arrived: false, percent: 0, trouble: null } as const;

const berthOf = (
  { id, name, place }: { readonly id: string; readonly name: string; readonly place: number },
  pass: string,
): Berth => ({
  player: id,
  name,
  place,
  pass,
  state: "reserved",
  attempt: null,
  expiresAtMs: null,
});

function call(state: RoomsPart, event: Of<"travel.called">, at: number): void {
  const { run, room, level, pool, options, stragglers, from, travellers, deadlineMs } = event;
  state.travels.byRun.set(run, {
    run,
    room,
    level,
    pool,
    options,
    stragglers,
    from,
    deadlineMs,
    calledAtMs: at,
    travellers: new Map(travellers.map((traveller) => [traveller.id, { ...traveller, ...FRESH }])),
    step: "preparing",
    option: 0,
    why: "the room kind puts it first",
    tried: [],
    attempt: 1,
    hosting: null,
    destination: null,
  });
  setDeadline(state.deadlines, "travel-step", run, deadlineMs);
}

function freshen(traveller: Traveller): void {
  traveller.arrived = FRESH.arrived;
  traveller.percent = FRESH.percent;
  traveller.trouble = FRESH.trouble;
}

/** Whatever was on its way was on its way to another place. */
function beginAgain(state: RoomsPart, travel: Travel, deadlineMs: number): void {
  travel.step = "preparing";
  travel.destination = null;
  travel.hosting = null;
  travel.deadlineMs = deadlineMs;
  for (const traveller of travel.travellers.values()) freshen(traveller);
  setDeadline(state.deadlines, "travel-step", travel.run, deadlineMs);
}

function beginBoarding(state: RoomsPart, travel: Travel, event: Of<"travel.boarding">): void {
  const { destination, deadlineMs, passes = {} } = event;
  travel.step = "boarding";
  travel.destination = destination;
  travel.deadlineMs = deadlineMs;
  setDeadline(state.deadlines, "travel-step", travel.run, deadlineMs);
  if (destination.by !== "player-hosted") return;
  const { room, run, level } = travel;
  const guests = [...travel.travellers.values()].filter(({ id }) => Object.hasOwn(passes, id));
  const berths = new Map(guests.map((guest) => [guest.id, berthOf(guest, passes[guest.id] ?? "")]));
  const { player, addresses } = destination;
  state.travels.worlds.set(room, { room, run, level: level.id, player, addresses, berths });
}

function travelOf(state: RoomsPart, run: string): Travel {
  const travel = state.travels.byRun.get(run);
  if (travel === undefined) throw new Error(`event about unknown travel ${run}`);
  return travel;
}
