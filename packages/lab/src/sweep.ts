import type { Figures } from "./figures.ts";
import { axis, INK, page, plot, round, shown } from "./page.ts";
import type { ReportFoot } from "./report.ts";

/** Rules that were tried, and what came of the traffic with them. The first of all are the rules as configured. */
export interface Tried {
  readonly name: string;
  readonly figures: Figures;
}

/** What a set of rules is judged by. */
export interface Judged {
  /** Seconds that nine in ten tickets have searched at the most, with those that found nobody in time. */
  readonly waitS: number;
  /** Median spread of a match, by the first number that tickets are matched by. */
  readonly spread: number;
}

export interface Advice<T extends Tried> {
  /** Of those that have no longer a wait than the rules as configured the one with the lowest spread. */
  readonly atSameWait: T | undefined;
  /** Of those that have no wider a spread the one with the shortest wait. */
  readonly atSameSpread: T | undefined;
  readonly text: readonly string[];
}

/** Fewer players matched than this share of those that the rules as configured match, and rules are no choice. */
const MATCHED_SHARE = 0.99;

/** Undefined where no match was made. */
export function judged({ searchS, spread }: Figures, attribute: string): Judged | undefined {
  const [waitS, middle] = [searchS.p90, spread[attribute]?.p50];
  return waitS === null || middle === null || middle === undefined ? undefined : { waitS, spread: middle };
}

/** The best choices: those for which no other has both a shorter wait and a lower spread. The shortest wait first. */
export function frontOf<T extends Tried>(tried: readonly T[], attribute: string): T[] {
  const enough = choicesOf(tried);
  const known = enough.flatMap((one) => {
    const by = judged(one.figures, attribute);
    return by ? [{ one, by }] : [];
  });
  return known
    .filter(({ by }) => !known.some((other) => isBetter(other.by, by)))
    .sort((a, b) => a.by.waitS - b.by.waitS)
    .map(({ one }) => one);
}

const isBetter = (one: Judged, other: Judged) =>
  one.waitS <= other.waitS && one.spread <= other.spread && (one.waitS < other.waitS || one.spread < other.spread);

function choicesOf<T extends Tried>(tried: readonly T[]): T[] {
  const own = tried[0]?.figures.matched.players ?? 0;
  return tried.filter(({ figures }) => figures.matched.players >= MATCHED_SHARE * own);
}

export function adviceOf<T extends Tried>(tried: readonly T[], attribute: string): Advice<T> {
  const [own] = tried;
  const now = own && judged(own.figures, attribute);
  if (own === undefined || now === undefined) {
    return {
      atSameWait: undefined,
      atSameSpread: undefined,
      text: ["The rules as configured make no match: there is nothing to compare."],
    };
  }
  const others = choicesOf(tried).flatMap((one) => {
    const by = one === own ? undefined : judged(one.figures, attribute);
    return by ? [{ one, by }] : [];
  });
  const least = (from: typeof others, of: (by: Judged) => number) =>
    from.reduce<(typeof others)[number] | undefined>((a, b) => (a && of(a.by) <= of(b.by) ? a : b), undefined);
  const closer = least(
    others.filter(({ by }) => by.waitS <= now.waitS && by.spread < now.spread),
    ({ spread }) => spread,
  );
  const sooner = least(
    others.filter(({ by }) => by.spread <= now.spread && by.waitS < now.waitS),
    ({ waitS }) => waitS,
  );
  const than = `the rules as configured have a p90 wait of ${round(now.waitS)} s and a median spread of ${attribute} of ${round(now.spread)}`;
  const text = [
    closer
      ? `At no longer a wait: ${closer.one.name} brings the spread to ${round(closer.by.spread)} (${percent(closer.by.spread, now.spread)}) at a wait of ${round(closer.by.waitS)} s; ${than}.`
      : `Nothing that was tried has a lower spread at no longer a wait; ${than}.`,
    sooner
      ? `At no wider a spread: ${sooner.one.name} brings the wait to ${round(sooner.by.waitS)} s (${percent(sooner.by.waitS, now.waitS)}) at a spread of ${round(sooner.by.spread)}.`
      : "Nothing that was tried has a shorter wait at no wider a spread.",
  ];
  return { atSameWait: closer?.one, atSameSpread: sooner?.one, text };
}

const percent = (value: number, of: number) => `${Math.round(100 * (value / of - 1))} %`;

export const SWEEP_COLUMNS = [
  "wait, p50",
  "wait, p90",
  "wait, p99",
  "spread, p50",
  "spread, p90",
  "players matched",
] as const;

/** One row of the table: a name, and a value for each of {@link SWEEP_COLUMNS}. */
export function sweepRow({ name, figures }: Tried, attribute: string): [name: string, ...values: string[]] {
  const { searchS, spread, matched } = figures;
  return [
    name,
    shown(searchS.p50, " s"),
    shown(searchS.p90, " s"),
    shown(searchS.p99, " s"),
    shown(spread[attribute]?.p50),
    shown(spread[attribute]?.p90),
    String(matched.players),
  ];
}

/** A page of its own: what every set of rules did, the best choices marked, and what they come to. */
export function sweepReport(tried: readonly Tried[], attribute: string, foot: ReportFoot): string {
  const front = frontOf(tried, attribute);
  const advice = adviceOf(tried, attribute);
  const { text } = advice;
  const [own] = tried;
  const rest = front.filter((one) => one !== own);
  return page({
    title: `${foot.queue}: a sweep over its rules`,
    finding: `${foot.queue}: ${findingOf(tried, advice, attribute)}`,
    summary: `${text.join(" ")} ${tried.length} sets of rules were tried; the table has the best choices, the shortest wait first; rules that match fewer than 99 % of the players are no choice. The wait is that of nine in ten tickets, with those that found nobody in time.`,
    columns: SWEEP_COLUMNS,
    rows: [...(own ? [own] : []), ...rest].map((one) => sweepRow(one, attribute)),
    plots: [
      plot(`Wait against spread of ${attribute}, a point for each set of rules`, frontOption(tried, front, attribute)),
    ],
    foot: `Queue ${foot.queue}. Traffic: ${foot.traffic}. Yellow Harbor ${foot.version}.`,
  });
}

/** The title says what came out. */
function findingOf([own]: readonly Tried[], { atSameWait: best }: Advice<Tried>, attribute: string): string {
  const [now, then] = [own, best].map((one) => one && judged(one.figures, attribute));
  if (!best || !now || !then) return "nothing that was tried is closer at no longer a wait";
  return `${best.name} makes matches ${Math.round(100 * (1 - then.spread / now.spread))} % closer at no longer a wait`;
}

function frontOption(tried: readonly Tried[], front: readonly Tried[], attribute: string) {
  const pointsOf = (some: readonly Tried[]) =>
    some.flatMap(({ figures }) => {
      const by = judged(figures, attribute);
      return by ? [[by.waitS, by.spread]] : [];
    });
  const choices = choicesOf(tried);
  return {
    xAxis: axis("p90 wait, seconds"),
    yAxis: axis(`median spread of ${attribute}`),
    series: [
      {
        type: "line" as const,
        name: "best choices",
        symbol: "triangle",
        symbolSize: 10,
        lineStyle: { width: 2 },
        data: pointsOf(front),
      },
      {
        type: "scatter" as const,
        name: "tried",
        symbol: "circle",
        symbolSize: 7,
        itemStyle: { opacity: 0.6 },
        data: pointsOf(tried.slice(1).filter((one) => choices.includes(one))),
      },
      {
        type: "scatter" as const,
        name: "match fewer players",
        symbol: "emptyCircle",
        symbolSize: 7,
        data: pointsOf(tried.slice(1).filter((one) => !choices.includes(one))),
      },
      {
        type: "scatter" as const,
        name: "as configured",
        symbol: "diamond",
        symbolSize: 16,
        itemStyle: { color: "#F5B81C", borderColor: INK, borderWidth: 1.5 },
        data: pointsOf(tried.slice(0, 1)),
      },
    ],
  };
}
