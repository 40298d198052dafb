import type { RegionView, RoomListing } from "@yellow-harbor/protocol";
import { type EchoWays, type Measured, measureEcho } from "./echo.ts";

/** A room of the directory, with how far away it is for whoever looks. */
export interface BrowsedRoom extends RoomListing {
  /** To the host's own world, else to the region of the room; absent while nothing was measured. In milliseconds. */
  readonly ownLatencyMs?: number;
}

export interface BrowserParts {
  readonly ways: EchoWays;
  readonly regions: () => Promise<readonly RegionView[]>;
  /** Hears of the rooms whenever they or their latencies change, the nearest first. */
  readonly changed: (rooms: readonly BrowsedRoom[]) => void;
  /** Each place is measured again after so long, in milliseconds; 30 s when absent. */
  readonly againMs?: number | undefined;
}

/** Places that are measured at once, and in all: a directory may name thousands. */
const AT_ONCE = 4;
const PLACES_MAX = 64;
const AGAIN_MS = 30_000;

interface Place {
  measured: Measured | undefined;
  /** When it is to be measured again, on the steady clock; infinite while it is being measured. */
  dueMs: number;
}

/** A directory that is kept in the order of one's own latencies: what it lists is measured, and measured again. */
export class RoomBrowser {
  readonly #parts: BrowserParts;
  readonly #places = new Map<string, Place>();
  #regions: ReadonlyMap<string, RegionView> = new Map();
  #listings: readonly RoomListing[] = [];
  #underWay = 0;
  #timer: ReturnType<typeof setInterval> | undefined;

  constructor(parts: BrowserParts) {
    this.#parts = parts;
  }

  /** The nearest first; those that were not measured last, in the directory's own order. */
  get rooms(): readonly BrowsedRoom[] {
    const rooms = this.#listings.map((listing): BrowsedRoom => {
      const latencyMs = this.#places.get(placeOf(listing) ?? "")?.measured?.latencyMs;
      return latencyMs === undefined ? listing : { ...listing, ownLatencyMs: latencyMs };
    });
    const far = ({ ownLatencyMs = Number.POSITIVE_INFINITY }: BrowsedRoom) => ownLatencyMs;
    return rooms.sort((a, b) => (far(a) === far(b) ? 0 : far(a) - far(b)));
  }

  async begin(): Promise<void> {
    const regions = await this.#parts.regions();
    this.#regions = new Map(regions.map((region) => [region.id, region]));
    this.#timer = setInterval(() => this.#measure(), Math.min(1_000, this.#parts.againMs ?? AGAIN_MS));
    this.#measure();
  }

  /** The directory is this now. */
  hear(listings: readonly RoomListing[]): void {
    this.#listings = listings;
    const named = new Set(listings.flatMap((listing) => placeOf(listing) ?? []));
    for (const place of this.#places.keys()) if (!named.has(place)) this.#places.delete(place);
    for (const place of named) {
      if (this.#places.size >= PLACES_MAX) break;
      if (!this.#places.has(place)) this.#places.set(place, { measured: undefined, dueMs: 0 });
    }
    this.#parts.changed(this.rooms);
    this.#measure();
  }

  close(): void {
    clearInterval(this.#timer);
    this.#timer = undefined;
    this.#places.clear();
  }

  #measure(): void {
    if (this.#timer === undefined) return;
    const now = performance.now();
    for (const [name, place] of this.#places) {
      if (this.#underWay >= AT_ONCE) return;
      if (place.dueMs > now) continue;
      place.dueMs = Number.POSITIVE_INFINITY;
      void this.#measureOne(name, place);
    }
  }

  async #measureOne(name: string, place: Place): Promise<void> {
    this.#underWay += 1;
    const measured = await measureEcho(this.#echoesOf(name), this.#parts.ways);
    this.#underWay -= 1;
    place.dueMs = performance.now() + (this.#parts.againMs ?? AGAIN_MS);
    const isOther = measured?.latencyMs !== place.measured?.latencyMs;
    place.measured = measured;
    if (this.#timer === undefined) return;
    if (isOther) this.#parts.changed(this.rooms);
    this.#measure();
  }

  /** The place is an address of a host, or the name of a region. */
  #echoesOf(name: string): readonly string[] {
    return name.includes("://") ? [name] : (this.#regions.get(name)?.echo ?? []);
  }
}

const placeOf = ({ echo, region }: RoomListing): string | undefined => echo ?? region;
