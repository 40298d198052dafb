import type { Address } from "@yellow-harbor/protocol";
import { FORMER_WAYS } from "../rooms/index.ts";
import type { HarborEvent } from "./event.ts";

type Of<K extends HarborEvent["kind"]> = Extract<HarborEvent, { kind: K }>;

/** An event as an older version wrote it, in today's form. Journals outlive versions, so this only ever grows. */
export function modernise(event: HarborEvent): HarborEvent {
  switch (event.kind) {
    case "room.opened":
      return event.ways?.destinations === undefined ? modernOpening(event) : event;
    case "room.started":
      // Once every travel went to an instance.
      return event.order.options === undefined
        ? { ...event, order: { ...event.order, ...FORMER_COURSE, spread: null } }
        : event;
    case "travel.called":
      return event.options === undefined ? { ...event, ...FORMER_COURSE, from: null } : event;
    case "travel.boarding":
      return event.destination === undefined ? { ...event, destination: formerPlace(event), detail: "" } : event;
    case "travel.completed":
    case "room.playing":
      return event.destination === undefined ? { ...event, destination: formerPlace(event) } : event;
    // Once an instance ran one match for one room.
    case "instance.ordered":
      return event.version === undefined ? { ...event, ...FORMER_INSTANCE } : event;
    case "instance.failed":
    case "instance.exited":
      return event.rooms === undefined ? { ...event, rooms: formerRooms(event) } : event;
    default:
      return event;
  }
}

const FORMER_INSTANCE = {
  ...{ version: "1", machine: "here", region: null, ports: {}, isWatched: false, level: null, drainMs: 3_600_000 },
  capacity: { rooms: 1, berths: 64, matches: "many" },
} as const;

const formerRooms = (event: HarborEvent): string[] => {
  const { room } = event as unknown as { room?: string | null };
  return room == null ? [] : [room];
};

const FORMER_COURSE = { options: ["dedicated"], stragglers: "wait" } as const;

/** Before 0.2 a room had four ways of its own and no build, and codes were numbered by the rooms opened; for long it had one destination. */
function modernOpening(event: Of<"room.opened">): HarborEvent {
  const former = (event.ways ?? event) as unknown as Partial<typeof FORMER_WAYS>;
  if (event.ways !== undefined) return { ...event, ways: { ...FORMER_WAYS, ...former } };
  const { leastPlayers = 2, graceMs = 30_000, countdownMs = 0, autoStart = false } = former;
  return { ...event, build: "", ways: { ...FORMER_WAYS, leastPlayers, graceMs, countdownMs, autoStart } };
}

function formerPlace(event: HarborEvent) {
  const { instance, address } = event as unknown as { instance: string; address: Address };
  return { by: "dedicated", instance, address } as const;
}
