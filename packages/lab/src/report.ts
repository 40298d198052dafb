import { LineChart, ScatterChart } from "echarts/charts";
import { GridComponent, LegendComponent, MarkLineComponent } from "echarts/components";
import * as echarts from "echarts/core";
import { SVGRenderer } from "echarts/renderers";
import type { Figures, Spread } from "./figures.ts";
import type { Played } from "./play.ts";

echarts.use([LineChart, ScatterChart, GridComponent, LegendComponent, MarkLineComponent, SVGRenderer]);

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

// Told apart by the colour-blind too (after Okabe and Ito, darkened to 4.5 to 1 on chalk); a dash of its own besides.
const COLOURS = ["#1B6A8F", "#A4501A", "#5B3F8C", "#2A6F53", "#8A3A4E", "#5C5A1E"];
const DASHES = ["solid", "dashed", "dotted"] as const;
const INK = "#0D2433";
const FAINT = "#C6D3D8";
const WIDTH = 600;
const HEIGHT = 320;

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
  return `<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<title>${escaped(foot.queue)}: queue rules compared</title>
<style>
:root { color-scheme: light; font-family: system-ui, "Segoe UI", sans-serif; color: ${INK}; background: #FBFCFA; }
body { max-width: 1240px; margin: 0 auto; padding: 24px; }
h1 { font-size: 1.35rem; margin: 0 0 4px; }
h2 { font-size: 1rem; margin: 0 0 4px; }
p { margin: 0 0 16px; max-width: 80ch; }
table { border-collapse: collapse; font-variant-numeric: tabular-nums; margin-bottom: 24px; }
th, td { text-align: right; padding: 4px 14px; border-bottom: 1px solid ${FAINT}; }
th:first-child, td:first-child { text-align: left; padding-left: 0; }
thead th { border-bottom: 2px solid ${INK}; }
thead th:nth-child(2) { border-bottom-color: #F5B81C; }
.plots { display: grid; grid-template-columns: repeat(auto-fit, minmax(520px, 1fr)); gap: 20px 24px; }
.plots svg { width: 100%; height: auto; }
footer { margin-top: 20px; font-size: 0.85rem; color: #1C3A4C; }
</style>
</head>
<body>
<h1>${escaped(finding(rules, foot.queue))}</h1>
<p>${escaped(summary(rules))}</p>
${table(rules)}
<div class="plots">
${plots.join("\n")}
</div>
<footer>Queue ${escaped(foot.queue)}. Traffic: ${escaped(foot.traffic)}. Yellow Harbor ${escaped(foot.version)}.</footer>
</body>
</html>
`;
}

/** The title says what came out. */
function finding(rules: readonly RanRules[], queue: string): string {
  const [own, ...others] = rules;
  const wait = own?.figures.waitS.p50;
  if (!own || wait === null || wait === undefined) return `${queue}: no match was made`;
  const middle = `${queue}: half of the tickets wait less than ${seconds(wait)}`;
  const best = others.toSorted((a, b) => (a.figures.waitS.p50 ?? Infinity) - (b.figures.waitS.p50 ?? Infinity))[0];
  const other = best?.figures.waitS.p50;
  if (!best || other === null || other === undefined) return middle;
  return `${middle}; with ${best.name} less than ${seconds(other)}`;
}

function summary(rules: readonly RanRules[]): string {
  const figures = rules[0]?.figures;
  if (!figures) return "";
  const { tickets, players, matches, matched, expired, cancelled } = figures;
  return `${tickets} tickets of ${players} players. With the rules as configured ${matches} matches took ${matched.tickets} tickets; ${expired} found nobody in time and ${cancelled} gave up.`;
}

const seconds = (value: number) => `${round(value)} s`;
const round = (value: number) => (Math.abs(value) >= 100 ? Math.round(value) : Math.round(value * 10) / 10);
const shown = (value: number | null | undefined, unit = "") =>
  value === null || value === undefined ? "none" : `${round(value)}${unit}`;

/** The rows of the comparison: what it is, and its value under each set of rules. */
export function comparison(all: readonly Figures[]): [label: string, ...values: string[]][] {
  const row = (label: string, value: (figures: Figures) => string): [string, ...string[]] => [label, ...all.map(value)];
  const spreads = (label: string, of: (figures: Figures) => Spread | undefined, unit = "") => [
    row(`${label}, half below`, (figures) => shown(of(figures)?.p50, unit)),
    row(`${label}, 9 of 10 below`, (figures) => shown(of(figures)?.p90, unit)),
  ];
  const attributes = Object.keys(all[0]?.spread ?? {});
  return [
    row("matches", (figures) => String(figures.matches)),
    row("matches a minute", (figures) => shown(figures.matchesPerMinute)),
    row("tickets matched", ({ matched, tickets }) => `${matched.tickets} of ${tickets}`),
    row("nobody found in time", (figures) => String(figures.expired)),
    row("gave up", (figures) => String(figures.cancelled)),
    row("still waiting", (figures) => String(figures.waiting)),
    row("refused", ({ refused }) => String(Object.values(refused).reduce((sum, count) => sum + count, 0))),
    ...spreads("wait", ({ waitS }) => waitS, " s"),
    row("wait, 99 of 100 below", ({ waitS }) => shown(waitS.p99, " s")),
    ...attributes.flatMap((name) => spreads(`spread of ${name}`, ({ spread }) => spread[name])),
    ...attributes.map((name) => row(`sides apart in ${name}, mean`, ({ sideGap }) => shown(sideGap[name]?.mean))),
    ...(all.some(({ worstLatencyMs }) => worstLatencyMs.p50 !== null)
      ? spreads("worst latency of a match", ({ worstLatencyMs }) => worstLatencyMs, " ms")
      : []),
  ];
}

function table(rules: readonly RanRules[]): string {
  const heads = rules.map(({ name }) => `<th scope="col">${escaped(name)}</th>`).join("");
  const rows = comparison(rules.map(({ figures }) => figures)).map(([label, ...values]) => {
    const cells = values.map((value) => `<td>${escaped(value)}</td>`).join("");
    return `<tr><th scope="row">${escaped(label)}</th>${cells}</tr>`;
  });
  return `<table><thead><tr><th scope="col"></th>${heads}</tr></thead><tbody>${rows.join("")}</tbody></table>`;
}

type Option = Parameters<ReturnType<typeof echarts.init>["setOption"]>[0];

function plot(title: string, option: Option): string {
  const chart = echarts.init(null, null, { renderer: "svg", ssr: true, width: WIDTH, height: HEIGHT });
  chart.setOption({
    animation: false,
    color: COLOURS,
    textStyle: { fontFamily: "system-ui, sans-serif", color: INK },
    grid: { left: 64, right: 24, top: 36, bottom: 52 },
    legend: { top: 4, itemGap: 28, itemWidth: 34, textStyle: { color: INK } },
    ...(option as object),
  });
  const svg = chart.renderToSVGString();
  chart.dispose();
  return `<section><h2>${escaped(title)}</h2>${svg}</section>`;
}

const axis = (name: string) => ({
  type: "value" as const,
  name,
  nameLocation: "middle" as const,
  nameGap: 34,
  nameTextStyle: { color: INK },
  axisLabel: { color: INK, hideOverlap: true },
  axisLine: { show: true, lineStyle: { color: INK } },
  splitLine: { lineStyle: { color: FAINT } },
});

const line = (name: string, n: number, points: readonly (readonly number[])[], step: boolean) => ({
  type: "line" as const,
  name,
  symbol: "none",
  ...(step ? { step: "end" as const } : {}),
  lineStyle: { width: 2, type: DASHES[n % DASHES.length] ?? "solid" },
  data: thinned(points).map((point) => [...point]),
});

const POINTS_MOST = 600;

/** At most so many of the points, evenly: a plot has no more pixels. */
function thinned<Point>(points: readonly Point[]): readonly Point[] {
  if (points.length <= POINTS_MOST) return points;
  const every = (points.length - 1) / (POINTS_MOST - 1);
  return Array.from({ length: POINTS_MOST }, (_, n) => points[Math.round(n * every)] as Point);
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

const escaped = (text: string) =>
  text.replace(/[&<>"]/g, (sign) => ({ "&": "&amp;", "<": "&lt;", ">": "&gt;", '"': "&quot;" })[sign] ?? sign);
