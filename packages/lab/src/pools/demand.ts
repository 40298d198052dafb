import { type FieldFault, type Problem, problem } from "@yellow-harbor/protocol";
import { randomLogNormal } from "d3-random";
import { uniformFloat64 } from "pure-rand/distribution/uniformFloat64";
import { xoroshiro128plus } from "pure-rand/generator/xoroshiro128plus";
import { z } from "zod";
import { arrivals } from "../arrivals.ts";
import type { Recorded } from "../recorded.ts";

/** One line of demand: a room that asks for an instance, and how long it holds it. Seconds from any beginning. */
export const DemandLine = z.object({
  at: z.number().min(0).max(1e9),
  holdS: z.number().min(0).max(1e7),
  players: z.int().min(1).max(1_000).default(1),
});
export type DemandLine = z.output<typeof DemandLine>;

/** What demand is made of. Everything has a default. */
export const DemandPlan = z.strictObject({
  minutes: z.number().positive().max(100_000).default(120),
  perMinute: z
    .array(z.tuple([z.number().min(0), z.number().min(0).max(1e5)]))
    .min(1)
    .default([
      [0, 2],
      [40, 12],
      [70, 12],
      [110, 2],
    ])
    .meta({
      description: "Rooms a minute, as points [minute, rate]: straight lines between them, flat after the last.",
    }),
  holdS: z
    .strictObject({ median: z.number().positive().default(420), spread: z.number().min(0).max(3).default(0.35) })
    .prefault({})
    .meta({ description: "How long rooms hold their instance: log-normal, median in seconds, and its spread." }),
  players: z.int().min(1).max(1_000).default(6),
});
export type DemandPlan = z.output<typeof DemandPlan>;

/** Makes demand. The same plan and seed give the same lines. */
export function generateDemand(plan: DemandPlan, seed: number): DemandLine[] {
  const rng = xoroshiro128plus(seed);
  const chance = () => uniformFloat64(rng);
  const hold = randomLogNormal.source(chance)(Math.log(plan.holdS.median), plan.holdS.spread);
  return [...arrivals(plan, chance)].map((at) => ({
    at: thousandths(at),
    holdS: thousandths(hold()),
    players: plan.players,
  }));
}

export type ReadDemand =
  | { readonly ok: true; readonly demand: readonly DemandLine[] }
  | { readonly ok: false; readonly problem: Problem };

const FAULTS_TOLD = 20;

/** Reads demand, a room a line in JSON; empty lines are passed over. Refused with `traffic-invalid` and the lines at fault. */
export function readDemand(text: string): ReadDemand {
  const demand: DemandLine[] = [];
  const faults: FieldFault[] = [];
  for (const [n, line] of text.split("\n").entries()) {
    if (line.trim() === "") continue;
    const read = readLine(line);
    if ("line" in read) demand.push(read.line);
    else faults.push({ path: `line ${n + 1}`, message: read.fault });
  }
  if (faults.length === 0) return { ok: true, demand: demand.sort((a, b) => a.at - b.at) };
  const detail = `The demand has ${faults.length} fault${faults.length === 1 ? "" : "s"}; each line is one room in JSON, such as {"at": 0, "holdS": 300}.`;
  return { ok: false, problem: problem("traffic-invalid", detail, { fields: faults.slice(0, FAULTS_TOLD) }) };
}

function readLine(line: string): { line: DemandLine } | { fault: string } {
  let value: unknown;
  try {
    value = JSON.parse(line);
  } catch (error) {
    return { fault: `is not JSON: ${(error as Error).message}` };
  }
  const checked = DemandLine.safeParse(value);
  if (checked.success) return { line: checked.data };
  return { fault: checked.error.issues.map(({ path, message }) => `${path.join(".")}: ${message}`).join("; ") };
}

/** The demand on a pool out of the events of a journal: which rooms asked when, and how long each held its instance. */
export function recordedDemand(events: Iterable<Recorded>, pool: string): DemandLine[] {
  const instances = new Map<string, HeldInstance>();
  const rooms: Held[] = [];
  for (const recorded of events) {
    const { kind, event } = recorded;
    const instance = String(event["instance"]);
    if (kind === "instance.launched" && event["pool"] === pool) instances.set(instance, new HeldInstance(rooms));
    instances.get(instance)?.happen(recorded);
  }
  const fromMs = Math.min(...rooms.map(({ atMs }) => atMs));
  return rooms
    .sort((a, b) => a.atMs - b.atMs)
    .map(({ atMs, holdMs, players }) => ({ at: (atMs - fromMs) / 1_000, holdS: holdMs / 1_000, players }));
}

interface Held {
  readonly atMs: number;
  readonly holdMs: number;
  readonly players: number;
}

/** Rooms that hold one instance, several at once or one after the other, each for a time of its own. */
class HeldInstance {
  readonly #since = new Map<string, { readonly atMs: number; players: number }>();
  readonly #over: Held[];

  constructor(over: Held[]) {
    this.#over = over;
  }

  happen({ atMs, kind, event }: Recorded): void {
    const { room = "", match } = event as { room?: string; match?: { room: string; players: readonly unknown[] } };
    if (kind === "instance.launched" || kind === "instance.allocated") this.#take(room, atMs);
    else if (kind === "instance.assigned" && match) this.#play(match.room, match.players.length);
    else if (kind === "instance.returned") this.#letGo(room, atMs);
    else if (ENDS.has(kind)) for (const one of [...this.#since.keys()]) this.#letGo(one, atMs);
  }

  /** A room that goes on to its next run asks for what it has; one that is launched ahead is for no room yet. */
  #take(room: string, atMs: number): void {
    if (room !== "" && !this.#since.has(room)) this.#since.set(room, { atMs, players: 1 });
  }

  #play(room: string, players: number): void {
    const since = this.#since.get(room);
    if (since) since.players = players;
  }

  #letGo(room: string, atMs: number): void {
    const since = this.#since.get(room);
    if (since) this.#over.push({ atMs: since.atMs, holdMs: atMs - since.atMs, players: since.players });
    this.#since.delete(room);
  }
}

const ENDS: ReadonlySet<string> = new Set(["instance.stop-requested", "instance.failed", "instance.exited"]);

const thousandths = (value: number) => Math.round(value * 1_000) / 1_000;
