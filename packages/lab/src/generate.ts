import type { MatchRules, QueueRules } from "@yellow-harbor/core";
import { randomExponential, randomLogNormal, randomNormal } from "d3-random";
import { uniformFloat64 } from "pure-rand/distribution/uniformFloat64";
import { xoroshiro128plus } from "pure-rand/generator/xoroshiro128plus";
import { z } from "zod";
import { arrivals } from "./arrivals.ts";
import type { TicketLine } from "./traffic.ts";

/** What traffic is made of. Everything has a default; what the rules look at is given to every ticket. */
export const TrafficPlan = z.strictObject({
  minutes: z.number().positive().max(100_000).default(30),
  perMinute: z
    .array(z.tuple([z.number().min(0), z.number().min(0).max(1e6)]))
    .min(1)
    .default([[0, 40]])
    .meta({
      description: "Tickets a minute, as points [minute, rate]: straight lines between them, flat after the last.",
    }),
  parties: z
    .array(z.number().min(0))
    .min(1)
    .max(8)
    .default([0.6, 0.25, 0.15])
    .meta({ description: "Shares of parties of 1, 2, 3 ... players." }),
  numbers: z
    .strictObject({
      mean: z.number().default(1_500),
      deviation: z.number().min(0).default(300),
      withinParty: z.number().min(0).default(80),
    })
    .prefault({})
    .meta({ description: "Numbers that tickets are matched by: normal, players of one party around the party's own." }),
  regions: z
    .record(z.string(), z.number().min(0))
    .optional()
    .meta({ description: "Shares of the regions that players are at home in; equal ones when absent." }),
  latencyMs: z
    .strictObject({ home: z.number().positive().default(25), elsewhere: z.number().positive().default(85) })
    .prefault({})
    .meta({ description: "Median latencies to the region at home and to the others: log-normal." }),
  cancels: z
    .strictObject({ share: z.number().min(0).max(1).default(0.1), afterS: z.number().positive().default(45) })
    .prefault({})
    .meta({ description: "Share of tickets that give up, and after how long in the mean: exponential." }),
});
export type TrafficPlan = z.output<typeof TrafficPlan>;

/** Makes traffic for a queue. The same queue, plan and seed give the same tickets. */
export function generate(queue: QueueRules, plan: TrafficPlan, seed: number): TicketLine[] {
  const rng = xoroshiro128plus(seed);
  const chance = () => uniformFloat64(rng);
  const make = new Maker(queue.match, plan, chance);
  const tickets: TicketLine[] = [];
  for (const at of arrivals(plan, chance)) tickets.push(make.ticket(tickets.length + 1, at));
  return tickets;
}

const LISTED = ["calm", "storm", "fog", "frost"];

class Maker {
  readonly #rules: MatchRules;
  readonly #plan: TrafficPlan;
  readonly #chance: () => number;
  readonly #normal: () => number;
  readonly #logNormal: () => number;

  constructor(rules: MatchRules, plan: TrafficPlan, chance: () => number) {
    this.#rules = rules;
    this.#plan = plan;
    this.#chance = chance;
    this.#normal = randomNormal.source(chance)();
    this.#logNormal = randomLogNormal.source(chance)(0, 0.35);
  }

  ticket(n: number, at: number): TicketLine {
    const { parties, cancels } = this.#plan;
    const max = this.#rules.party.max;
    const size = this.#pick(parties.slice(0, max)) + 1;
    const home = this.#home();
    const means = this.#rules.closeness.map(() => this.#number());
    const players = Array.from({ length: size }, (_, k) => this.#player(`p${n}-${k + 1}`, means, home));
    const gaveUp = this.#chance() < cancels.share;
    const cancelAt = at + randomExponential.source(this.#chance)(1 / cancels.afterS)();
    const attributes = this.#shared();
    return {
      at: thousandths(at),
      ticket: `t${n}`,
      players,
      ...(Object.keys(attributes).length > 0 ? { attributes } : {}),
      ...(gaveUp ? { cancelAt: thousandths(cancelAt) } : {}),
    };
  }

  #player(id: string, means: readonly number[], home: string): TicketLine["players"][number] {
    const { lineUp, latency, closeness } = this.#rules;
    const attributes: Record<string, number | string[]> = {};
    for (const [n, { attribute }] of closeness.entries()) {
      attributes[attribute] = Math.round((means[n] ?? 0) + this.#normal() * this.#plan.numbers.withinParty);
    }
    if (lineUp) attributes[lineUp.attribute] = this.#some(lineUp.perSide.map(({ role }) => role));
    const latencyMs =
      latency && Object.fromEntries(latency.regions.map((name) => [name, this.#latency(name === home)]));
    return {
      id,
      ...(Object.keys(attributes).length > 0 ? { attributes } : {}),
      ...(latencyMs ? { latencyMs } : {}),
    };
  }

  #number(): number {
    const { mean, deviation } = this.#plan.numbers;
    return mean + this.#normal() * deviation;
  }

  #latency(isHome: boolean): number {
    const { home, elsewhere } = this.#plan.latencyMs;
    return Math.max(1, Math.round((isHome ? home : elsewhere) * this.#logNormal()));
  }

  #home(): string {
    const regions = this.#rules.latency?.regions ?? [];
    const shares = regions.map((name) => (this.#plan.regions ? (this.#plan.regions[name] ?? 0) : 1));
    return regions[this.#pick(shares)] ?? "";
  }

  /** What the queue's needs ask for, of the party as a whole. */
  #shared(): NonNullable<TicketLine["attributes"]> {
    const attributes: NonNullable<TicketLine["attributes"]> = {};
    for (const need of this.#rules.needs) {
      if ("oneOf" in need) attributes[need.attribute] = need.oneOf[this.#below(need.oneOf.length)] ?? "";
      else if (!("must" in need)) {
        const { from = 0, to = from + 100 } = need;
        attributes[need.attribute] = from + this.#below(Math.floor(to - from) + 1);
      }
    }
    for (const need of this.#rules.needs) {
      if (!("must" in need) || need.attribute in attributes) continue;
      attributes[need.attribute] = need.must === "equal" ? "b1" : this.#some(LISTED);
    }
    return attributes;
  }

  /** One or more of a list. */
  #some(list: readonly string[]): string[] {
    const some = list.filter(() => this.#chance() < 0.5);
    return some.length > 0 ? some : [list[this.#below(list.length)] ?? ""];
  }

  #below(many: number): number {
    return Math.floor(this.#chance() * many);
  }

  /** An index, by shares. */
  #pick(shares: readonly number[]): number {
    let left = this.#chance() * shares.reduce((sum, share) => sum + share, 0);
    for (const [n, share] of shares.entries()) {
      left -= share;
      if (left < 0) return n;
    }
    return Math.max(0, shares.length - 1);
  }
}

const thousandths = (seconds: number) => Math.round(seconds * 1_000) / 1_000;
