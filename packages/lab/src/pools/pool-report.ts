import { type Spread, spreadOf } from "../figures.ts";
import { axis, INK, line, type Option, page, plot, round, shown } from "../page.ts";
import type { Machines, PlayedPool } from "./play-pool.ts";

export interface PoolFigures {
  readonly rooms: number;
  readonly refused: number;
  /** Rooms, and the players in them, that had to wait for an instance to come up. */
  readonly waited: { readonly rooms: number; readonly players: number };
  readonly waitS: Spread;
  readonly launched: number;
  readonly retired: number;
  readonly failed: number;
  readonly peak: number;
  readonly meanInstances: number;
  readonly instanceS: number;
  /** Of the seconds that instances ran, the share in which no room held them. */
  readonly freeShare: number;
  readonly cost: number;
}

/** One policy and what came of the demand with it. */
export interface RanPolicy {
  readonly name: string;
  /** The most instances that it may run. */
  readonly max: number;
  readonly played: PlayedPool;
  readonly figures: PoolFigures;
}

export function poolFigures(played: PlayedPool, rooms: number, { pricePerHour }: Machines): PoolFigures {
  const { waits, instanceS, heldS, endS, refused, launched, retired, failed, peak } = played;
  const late = waits.filter(({ waitS }) => waitS > 0);
  return {
    rooms,
    refused,
    launched,
    retired,
    failed,
    peak,
    instanceS: Math.round(instanceS),
    waited: { rooms: late.length, players: late.reduce((sum, { players }) => sum + players, 0) },
    waitS: spreadOf(waits.map(({ waitS }) => waitS)),
    meanInstances: endS === 0 ? 0 : instanceS / endS,
    freeShare: instanceS === 0 ? 0 : 1 - heldS / instanceS,
    cost: (instanceS / 3_600) * pricePerHour,
  };
}

const percent = (share: number) => `${round(100 * share)} %`;

/** The rows of the comparison: what it is, and its value under each policy. */
export function poolComparison(all: readonly PoolFigures[]): [label: string, ...values: string[]][] {
  const row = (label: string, value: (figures: PoolFigures) => string): [string, ...string[]] => [
    label,
    ...all.map(value),
  ];
  return [
    row("rooms", ({ rooms }) => String(rooms)),
    row("refused: the pool was at its maximum", ({ refused }) => String(refused)),
    row(
      "rooms that had to wait",
      ({ waited, rooms }) => `${waited.rooms} (${percent(waited.rooms / Math.max(1, rooms))})`,
    ),
    row("players in them", ({ waited }) => String(waited.players)),
    row("wait, median", ({ waitS }) => shown(waitS.p50, " s")),
    row("wait, p90", ({ waitS }) => shown(waitS.p90, " s")),
    row("wait, p99", ({ waitS }) => shown(waitS.p99, " s")),
    row("wait, the longest", ({ waitS }) => shown(waitS.max, " s")),
    row("instances launched", ({ launched }) => String(launched)),
    row("retired by the planner", ({ retired }) => String(retired)),
    row("never came up", ({ failed }) => String(failed)),
    row("instances at the peak", ({ peak }) => String(peak)),
    row("instances in the mean", ({ meanInstances }) => shown(meanInstances)),
    row("instance hours", ({ instanceS }) => (instanceS / 3_600).toFixed(1)),
    row("of these held by nobody", ({ freeShare }) => percent(freeShare)),
    ...(all.some(({ cost }) => cost > 0) ? [row("cost", ({ cost }) => cost.toFixed(2))] : []),
  ];
}

/** What has to be known to make the same report again. */
export interface PoolFoot {
  readonly pool: string;
  readonly demand: string;
  readonly machines: string;
  readonly version: string;
}

/** A page of its own: what policies do to the same demand, in figures and plots. */
export function poolReport(policies: readonly RanPolicy[], foot: PoolFoot): string {
  return page({
    title: `${foot.pool}: policies compared`,
    finding: finding(policies, foot.pool),
    summary: `${policies[0]?.figures.rooms ?? 0} rooms ask for an instance. A room waits when none is open and free; the other side of it is instances that nobody holds.`,
    columns: policies.map(({ name }) => name),
    rows: poolComparison(policies.map(({ figures }) => figures)),
    plots: [
      plot("Instances over time, and those that rooms hold", courseOption(policies)),
      plot("How long rooms waited for an instance", waitsOption(policies)),
      plot("What waiting less costs", tradeOption(policies)),
    ],
    foot: `Pool ${foot.pool}. Demand: ${foot.demand}. Machines: ${foot.machines}. Yellow Harbor ${foot.version}.`,
  });
}

function finding(policies: readonly RanPolicy[], pool: string): string {
  const told = policies.map(({ name, figures }) => {
    const waited = percent(figures.waited.rooms / Math.max(1, figures.rooms));
    return `${name}: ${waited} of the rooms wait, ${(figures.instanceS / 3_600).toFixed(1)} instance hours`;
  });
  return `${pool}, ${told.join("; ")}`;
}

function courseOption(policies: readonly RanPolicy[]): Option {
  const series = policies.map(({ name, played: { course } }, n) =>
    line(
      name,
      n,
      course.map(([at, live]) => [at / 60, live]),
      true,
    ),
  );
  const [first] = policies;
  const held = line(
    "held by rooms",
    2,
    (first?.played.course ?? []).map(([at, , holds]) => [at / 60, holds]),
    true,
  );
  const max = {
    symbol: "none",
    silent: true,
    lineStyle: { color: INK, type: "dotted" as const },
    label: { formatter: "the most", position: "insideEndTop" as const, color: INK },
    data: [{ yAxis: first?.max ?? 0 }],
  };
  const marked = series.map((one, n) => (n === 0 ? { ...one, markLine: max } : one));
  return {
    xAxis: axis("minutes"),
    yAxis: { ...axis("instances"), max: ceilingOf(policies) },
    series: [...marked, held],
  };
}

/** A little above the most, so that its line is seen. */
const ceilingOf = (policies: readonly RanPolicy[]) => Math.ceil(1.1 * Math.max(...policies.map(({ max }) => max)));

function waitsOption(policies: readonly RanPolicy[]): Option {
  const series = policies.map(({ name, played: { waits } }, n) => {
    const sorted = waits.map(({ waitS }) => waitS).sort((a, b) => a - b);
    return line(
      name,
      n,
      sorted.map((wait, at) => [wait, (at + 1) / sorted.length]),
      true,
    );
  });
  return { xAxis: axis("waited, seconds"), yAxis: { ...axis("share of rooms"), max: 1 }, series };
}

function tradeOption(policies: readonly RanPolicy[]): Option {
  const series = policies.map(({ name, figures }, n) => ({
    type: "scatter" as const,
    name,
    symbol: ["circle", "triangle", "rect", "diamond"][n % 4] ?? "circle",
    symbolSize: 16,
    data: [[figures.instanceS / 3_600, (100 * figures.waited.rooms) / Math.max(1, figures.rooms)]],
  }));
  return { xAxis: axis("instance hours"), yAxis: axis("rooms that wait, percent"), series };
}
