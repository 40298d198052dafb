import { backOffMs, type Lower, percentile, planOf, stepOf } from "@yellow-harbor/core";
import type { PlanRules } from "@yellow-harbor/protocol";
import { randomLogNormal } from "d3-random";
import { uniformFloat64 } from "pure-rand/distribution/uniformFloat64";
import { xoroshiro128plus } from "pure-rand/generator/xoroshiro128plus";
import { z } from "zod";
import type { DemandLine } from "./demand.ts";

/** Computers that instances come up on, as far as a pool can tell. */
export const Machines = z.strictObject({
  bootS: z
    .strictObject({ median: z.number().positive().default(8), spread: z.number().min(0).max(3).default(0.3) })
    .prefault({})
    .meta({ description: "Seconds from launch to open: log-normal." }),
  failures: z.number().min(0).max(1).default(0.01).meta({ description: "Share of instances that never come up." }),
  pricePerHour: z.number().min(0).default(0).meta({ description: "Price of one instance for an hour." }),
});
export type Machines = z.output<typeof Machines>;

/** What is tried: a pool's plan, or none, and its bounds. */
export interface PoolPolicy {
  readonly max: number;
  readonly plan: PlanRules | null;
  readonly reuse: "room" | "any";
  /** Rooms that one instance serves at once, and players of all of them together; null for as many as come. */
  readonly roomsEach: number;
  readonly berths: number | null;
}

export interface PlayedPool {
  /** Seconds from asking until an instance was open, of each room that got one. */
  readonly waits: readonly { readonly at: number; readonly waitS: number; readonly players: number }[];
  /** Rooms that were refused since the pool was at its maximum. */
  readonly refused: number;
  readonly launched: number;
  readonly retired: number;
  readonly failed: number;
  /** Seconds that instances ran or came up, and the part in which rooms held them. */
  readonly instanceS: number;
  readonly heldS: number;
  readonly peak: number;
  /** Over time: second, instances, those held by rooms. */
  readonly course: readonly (readonly [number, number, number])[];
  readonly endS: number;
}

interface Sim {
  readonly id: number;
  readonly orderedAt: number;
  isOpen: boolean;
  /** The rooms that hold it. */
  readonly rooms: Set<Asking>;
}

interface Asking {
  readonly at: number;
  readonly holdS: number;
  readonly players: number;
}

type SimEvent =
  | { readonly what: "room"; readonly room: Asking }
  | { readonly what: "boot"; readonly instance: Sim; readonly works: boolean }
  | { readonly what: "leave"; readonly instance: Sim; readonly room: Asking }
  | { readonly what: "look" };

const LOOK_EVERY_S = 1;
const RATE_OVER_S = 60;
const REMEMBERED = 200;

/** Plays demand against a pool in virtual time, with the planner that the service runs. */
export function playPool(
  policy: PoolPolicy,
  demand: readonly DemandLine[],
  machines: Machines,
  seed: number,
): PlayedPool {
  return new PoolPlay(policy, machines, seed).run(demand);
}

class PoolPlay {
  readonly #policy: PoolPolicy;
  readonly #machines: Machines;
  readonly #chance: () => number;
  readonly #boot: () => number;
  readonly #queue = new Agenda();
  readonly #live = new Set<Sim>();
  #now = 0;
  #ids = 0;
  #lower: Lower | null = null;
  #asked: number[] = [];
  #boots: number[] = [];
  #failuresInRow = 0;
  #failedAt = 0;
  #roomsLeft = 0;
  readonly #played = { refused: 0, launched: 0, retired: 0, failed: 0, instanceS: 0, heldS: 0, peak: 0 };
  readonly #waits: { at: number; waitS: number; players: number }[] = [];
  readonly #course: [number, number, number][] = [];

  constructor(policy: PoolPolicy, machines: Machines, seed: number) {
    this.#policy = policy;
    this.#machines = machines;
    const rng = xoroshiro128plus(seed);
    this.#chance = () => uniformFloat64(rng);
    this.#boot = randomLogNormal.source(this.#chance)(Math.log(machines.bootS.median), machines.bootS.spread);
  }

  run(demand: readonly DemandLine[]): PlayedPool {
    for (const room of demand) this.#queue.add(room.at, { what: "room", room });
    this.#roomsLeft = demand.length;
    this.#queue.add(0, { what: "look" });
    for (let next = this.#queue.take(); next; next = this.#queue.take()) {
      this.#pass(next.at);
      this.#happen(next.applied);
      if (this.#policy.plan && next.applied.what !== "look") this.#plan();
      this.#note();
    }
    return { ...this.#played, waits: this.#waits, course: this.#course, endS: this.#now };
  }

  /** Time passes: instances cost, whether they are of use or not. */
  #pass(at: number): void {
    const seconds = at - this.#now;
    this.#played.instanceS += seconds * this.#live.size;
    this.#played.heldS += seconds * this.#held().length;
    this.#now = at;
  }

  #note(): void {
    this.#played.peak = Math.max(this.#played.peak, this.#live.size);
    const last = this.#course.at(-1);
    const point: [number, number, number] = [this.#now, this.#live.size, this.#held().length];
    if (last?.[1] !== point[1] || last[2] !== point[2]) this.#course.push(point);
  }

  #happen(applied: SimEvent): void {
    switch (applied.what) {
      case "room":
        return this.#ask(applied.room);
      case "boot":
        return this.#bootEnds(applied.instance, applied.works);
      case "leave":
        return this.#leave(applied.instance, applied.room);
      case "look": {
        this.#plan();
        // Once everybody has been and gone the pool is let go.
        if (this.#policy.plan && this.#roomsLeft > 0) this.#queue.add(this.#now + LOOK_EVERY_S, { what: "look" });
        return;
      }
    }
  }

  #ask(room: Asking): void {
    this.#asked.push(this.#now);
    this.#find(room);
  }

  /** A place beside others before one alone, as in the service; a new instance where there is neither. */
  #find(room: Asking): void {
    const instance = this.#placesFor(room)[0];
    if (instance) return this.#hold(instance, room);
    if (this.#live.size >= this.#policy.max) {
      this.#played.refused += 1;
      this.#roomsLeft -= 1;
      return;
    }
    this.#hold(this.#launch(), room);
  }

  #hold(instance: Sim, room: Asking): void {
    instance.rooms.add(room);
    if (instance.isOpen) this.#begin(instance, room);
  }

  #begin(instance: Sim, room: Asking): void {
    this.#waits.push({ at: room.at, waitS: this.#now - room.at, players: room.players });
    this.#queue.add(this.#now + room.holdS, { what: "leave", instance, room });
  }

  #leave(instance: Sim, room: Asking): void {
    this.#roomsLeft -= 1;
    instance.rooms.delete(room);
    const isKept = this.#policy.plan !== null && this.#policy.reuse === "any";
    if (!isKept && instance.rooms.size === 0) this.#live.delete(instance);
  }

  #launch(): Sim {
    const instance: Sim = { id: ++this.#ids, orderedAt: this.#now, isOpen: false, rooms: new Set() };
    this.#live.add(instance);
    this.#played.launched += 1;
    const works = this.#chance() >= this.#machines.failures;
    this.#queue.add(this.#now + this.#boot(), { what: "boot", instance, works });
    return instance;
  }

  #bootEnds(instance: Sim, works: boolean): void {
    // It may have been retired on its way up.
    if (!this.#live.has(instance)) return;
    if (!works) {
      this.#played.failed += 1;
      this.#failuresInRow += 1;
      this.#failedAt = this.#now;
      this.#live.delete(instance);
      // The rooms that waited for it wait for another: their place in the pool is theirs.
      for (const room of instance.rooms) this.#hold(this.#placesFor(room)[0] ?? this.#launch(), room);
      return;
    }
    this.#failuresInRow = 0;
    this.#boots = [...this.#boots, (this.#now - instance.orderedAt) * 1_000].slice(-REMEMBERED);
    instance.isOpen = true;
    for (const room of instance.rooms) this.#begin(instance, room);
  }

  #plan(): void {
    const { plan: rules, max } = this.#policy;
    if (rules === null) return;
    this.#asked = this.#asked.filter((at) => at > this.#now - RATE_OVER_S);
    const idle = this.#idle();
    const held = this.#live.size - idle.length;
    const rooms = [...this.#live].reduce((sum, one) => sum + one.rooms.size, 0);
    const plan = planOf(rules, max, {
      held,
      rooms,
      roomsEach: this.#policy.roomsEach,
      idle: idle.length,
      counting: 0,
      asking: 0,
      pinned: null,
      windows: [],
      affordable: null,
      ratePerS: this.#asked.length / RATE_OVER_S,
      bootS: percentile(this.#boots, 0.9) / 1_000,
    });
    const step = stepOf(plan, idle.length, this.#lower, rules.cooldownMs, this.#now * 1_000);
    this.#lower = step.lower;
    const backOff = backOffMs(this.#failuresInRow, rules.giveUpAfter);
    const mayLaunch = backOff !== null && this.#now >= this.#failedAt + backOff / 1_000;
    const left = max - this.#live.size;
    for (let n = 0; mayLaunch && n < Math.min(step.launch, left); n++) this.#launch();
    for (const instance of idle.reverse().slice(0, step.retire)) {
      this.#live.delete(instance);
      this.#played.retired += 1;
    }
  }

  #held = () => [...this.#live].filter(({ rooms }) => rooms.size > 0);
  /** Those that have place for a room: open ones first, then the fullest, then the oldest. */
  #placesFor = (room: Asking) =>
    [...this.#live]
      .filter((one) => this.#takes(one, room))
      .sort((a, b) => Number(b.isOpen) - Number(a.isOpen) || b.rooms.size - a.rooms.size || a.id - b.id);

  #takes({ rooms }: Sim, { players }: Asking): boolean {
    const { roomsEach, berths } = this.#policy;
    const there = [...rooms].reduce((sum, one) => sum + one.players, 0);
    return rooms.size < roomsEach && (rooms.size === 0 || berths === null || there + players <= berths);
  }

  /** Open ones first, the oldest first. */
  #idle = () =>
    [...this.#live]
      .filter(({ rooms }) => rooms.size === 0)
      .sort((a, b) => Number(b.isOpen) - Number(a.isOpen) || a.id - b.id);
}

/** What is to happen, in the order of its time and then of its coming: a binary heap. */
class Agenda {
  readonly #heap: { readonly at: number; readonly number: number; readonly applied: SimEvent }[] = [];
  #count = 0;

  add(at: number, applied: SimEvent): void {
    const heap = this.#heap;
    heap.push({ at, number: this.#count++, applied });
    for (let n = heap.length - 1; n > 0; ) {
      const parent = (n - 1) >> 1;
      if (!this.#isBefore(n, parent)) return;
      this.#swap(n, parent);
      n = parent;
    }
  }

  take(): { readonly at: number; readonly applied: SimEvent } | undefined {
    const heap = this.#heap;
    const first = heap[0];
    const last = heap.pop();
    if (first === undefined || last === undefined || heap.length === 0) return first;
    heap[0] = last;
    for (let n = 0; ; ) {
      let min = n;
      for (const child of [2 * n + 1, 2 * n + 2]) if (child < heap.length && this.#isBefore(child, min)) min = child;
      if (min === n) return first;
      this.#swap(n, min);
      n = min;
    }
  }

  #isBefore(a: number, b: number): boolean {
    const [one, other] = [this.#heap[a], this.#heap[b]];
    if (!one || !other) return false;
    return one.at < other.at || (one.at === other.at && one.number < other.number);
  }

  #swap(a: number, b: number): void {
    const heap = this.#heap;
    [heap[a], heap[b]] = [heap[b] as (typeof heap)[number], heap[a] as (typeof heap)[number]];
  }
}
