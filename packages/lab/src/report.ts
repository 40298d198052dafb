import type { Figures, Spread } from "./figures.ts";
import { axis, INK, line, type Option, page, plot, round, shown, thinned } from "./page.ts";
import type { Played } from "./play.ts";

/** One set of rules and what came of the traffic with it. */
export interface RanRules {
  readonly name: string;
  readonly played: Played;
  readonly figures: Figures;
}

/** What has to be known to make the same report again. */
export interface ReportFoot {
  readonly queue: string;
  readonly traffic: string;
  readonly version: string;
}

/** A page of its own, with nothing from outside: what the rules do to the same traffic, in figures and plots. */
export function report(rules: readonly RanRules[], foot: ReportFoot): string {
  const [first] = rules;
  const attribute = Object.keys(first?.figures.spread ?? {})[0];
  const plots = [
    plot("How long matched tickets have waited", waitsOption(rules)),
    plot("How many tickets wait", depthsOption(rules)),
    plot("Matches made each minute", paceOption(rules)),
    ...(attribute ? [plot(`What a long wait costs in ${attribute}`, costOption(rules, attribute))] : []),
  ];
  return page({
    title: `${foot.queue}: queue rules compared`,
    finding: finding(rules, foot.queue),
    summary: summary(rules),
    columns: rules.map(({ name }) => name),
    rows: comparison(rules.map(({ figures }) => figures)),
    plots,
    foot: `Queue ${foot.queue}. Traffic: ${foot.traffic}. Yellow Harbor ${foot.version}.`,
  });
}

/** The title says what came out. */
function finding(rules: readonly RanRules[], queue: string): string {
  const [own, ...others] = rules;
  const wait = own?.figures.waitS.p50;
  if (!own || wait === null || wait === undefined) return `${queue}: no match was made`;
  const middle = `${queue}: the median wait is ${seconds(wait)}`;
  const best = others.toSorted((a, b) => (a.figures.waitS.p50 ?? Infinity) - (b.figures.waitS.p50 ?? Infinity))[0];
  const other = best?.figures.waitS.p50;
  if (!best || other === null || other === undefined) return middle;
  return `${middle}; with ${best.name} ${seconds(other)}`;
}

function summary(rules: readonly RanRules[]): string {
  const figures = rules[0]?.figures;
  if (!figures) return "";
  const { tickets, players, matches, matched, expired, cancelled } = figures;
  return `${tickets} tickets of ${players} players. With the rules as configured ${matches} matches took ${matched.tickets} tickets; ${expired} found nobody in time and ${cancelled} gave up.`;
}

const seconds = (value: number) => `${round(value)} s`;
/** The rows of the comparison: what it is, and its value under each set of rules. */
export function comparison(all: readonly Figures[]): [label: string, ...values: string[]][] {
  const row = (label: string, value: (figures: Figures) => string): [string, ...string[]] => [label, ...all.map(value)];
  const spreads = (label: string, of: (figures: Figures) => Spread | undefined, unit = "") => [
    row(`${label}, median`, (figures) => shown(of(figures)?.p50, unit)),
    row(`${label}, p90`, (figures) => shown(of(figures)?.p90, unit)),
  ];
  const attributes = Object.keys(all[0]?.spread ?? {});
  return [
    row("matches", (figures) => String(figures.matches)),
    row("matches per minute", (figures) => shown(figures.matchesPerMinute)),
    row("tickets matched", ({ matched, tickets }) => `${matched.tickets} of ${tickets}`),
    row("nobody found in time", (figures) => String(figures.expired)),
    row("gave up", (figures) => String(figures.cancelled)),
    ...(all.some(({ undone }) => undone > 0)
      ? [
          row("matches not confirmed by all", (figures) => String(figures.undone)),
          row("tickets that did not confirm", (figures) => String(figures.declined)),
        ]
      : []),
    ...(all.some(({ short }) => short > 0)
      ? [row("matches that began short of players", (figures) => String(figures.short))]
      : []),
    ...(all.some(({ fullShare }) => fullShare > 0)
      ? [row("passes with nowhere to play", ({ fullShare }) => `${round(100 * fullShare)} %`)]
      : []),
    row("still waiting", (figures) => String(figures.waiting)),
    row("refused", ({ refused }) => String(Object.values(refused).reduce((sum, count) => sum + count, 0))),
    ...spreads("wait", ({ waitS }) => waitS, " s"),
    row("wait, p99", ({ waitS }) => shown(waitS.p99, " s")),
    ...attributes.flatMap((name) => spreads(`spread of ${name}`, ({ spread }) => spread[name])),
    ...attributes.map((name) => row(`sides apart in ${name}, mean`, ({ sideGap }) => shown(sideGap[name]?.mean))),
    ...(all.some(({ worstLatencyMs }) => worstLatencyMs.p50 !== null)
      ? spreads("worst latency of a match", ({ worstLatencyMs }) => worstLatencyMs, " ms")
      : []),
  ];
}

function waitsOption(rules: readonly RanRules[]): Option {
  const series = rules.map(({ name, played: { waits } }, n) => {
    const sorted = waits.toSorted((a, b) => a - b);
    return line(
      name,
      n,
      sorted.map((wait, at) => [wait, (at + 1) / sorted.length]),
      true,
    );
  });
  const half = {
    symbol: "none",
    silent: true,
    lineStyle: { color: INK, type: "dotted" as const },
    label: { formatter: "half", position: "insideEndTop" as const, color: INK },
    data: [{ yAxis: 0.5 }],
  };
  const marked = series.map((one, n) => (n === 0 ? { ...one, markLine: half } : one));
  return { xAxis: axis("waited, seconds"), yAxis: { ...axis("share of matched tickets"), max: 1 }, series: marked };
}

function depthsOption(rules: readonly RanRules[]): Option {
  const series = rules.map(({ name, played: { depths } }, n) => {
    return line(
      name,
      n,
      depths.map(([at, tickets]) => [at / 60, tickets]),
      false,
    );
  });
  return { xAxis: axis("minutes"), yAxis: axis("tickets waiting"), series };
}

function paceOption(rules: readonly RanRules[]): Option {
  const series = rules.map(({ name, played: { matches } }, n) => {
    const counts: number[] = [];
    for (const { at } of matches) counts[Math.floor(at / 60)] = (counts[Math.floor(at / 60)] ?? 0) + 1;
    return line(
      name,
      n,
      Array.from(counts, (count, minute) => [minute, count ?? 0]),
      true,
    );
  });
  return { xAxis: axis("minutes"), yAxis: axis("matches in the minute"), series };
}

function costOption(rules: readonly RanRules[], attribute: string): Option {
  const series = rules.map(({ name, played: { matches } }, n) => ({
    type: "scatter" as const,
    name,
    symbol: ["circle", "triangle", "rect"][n % 3] ?? "circle",
    symbolSize: 6,
    itemStyle: { opacity: 0.65 },
    data: thinned(matches).map(({ quality }) => [quality.longestWaitS, quality.spread[attribute] ?? 0]),
  }));
  return { xAxis: axis("longest wait in the match, seconds"), yAxis: axis(`spread of ${attribute}`), series };
}
