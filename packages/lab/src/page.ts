import { LineChart, ScatterChart } from "echarts/charts";
import { GridComponent, LegendComponent, MarkLineComponent } from "echarts/components";
import * as echarts from "echarts/core";
import { SVGRenderer } from "echarts/renderers";

echarts.use([LineChart, ScatterChart, GridComponent, LegendComponent, MarkLineComponent, SVGRenderer]);

// Told apart by the colour-blind too (after Okabe and Ito, darkened to 4.5 to 1 on chalk); a dash of its own besides.
const COLOURS = ["#1B6A8F", "#A4501A", "#5B3F8C", "#2A6F53", "#8A3A4E", "#5C5A1E"];
const DASHES = ["solid", "dashed", "dotted"] as const;
export const INK = "#0D2433";
const FAINT = "#C6D3D8";
const WIDTH = 600;
const HEIGHT = 320;

export interface Page {
  readonly title: string;
  /** What came out, in a sentence. */
  readonly finding: string;
  readonly summary: string;
  /** Heads of the columns after the first, and the rows. */
  readonly columns: readonly string[];
  readonly rows: readonly (readonly string[])[];
  readonly plots: readonly string[];
  readonly foot: string;
}

/** A page of its own, with nothing from outside. */
export function page({ title, finding, summary, columns, rows, plots, foot }: Page): string {
  return `<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<title>${escaped(title)}</title>
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
.plots svg { width: 100%; max-width: 720px; height: auto; }
footer { margin-top: 20px; font-size: 0.85rem; color: #1C3A4C; }
</style>
</head>
<body>
<h1>${escaped(finding)}</h1>
<p>${escaped(summary)}</p>
${table(columns, rows)}
<div class="plots">
${plots.join("\n")}
</div>
<footer>${escaped(foot)}</footer>
</body>
</html>
`;
}

function table(columns: readonly string[], rows: readonly (readonly string[])[]): string {
  const heads = columns.map((name) => `<th scope="col">${escaped(name)}</th>`).join("");
  const body = rows.map(([label = "", ...values]) => {
    const cells = values.map((value) => `<td>${escaped(value)}</td>`).join("");
    return `<tr><th scope="row">${escaped(label)}</th>${cells}</tr>`;
  });
  return `<table><thead><tr><th scope="col"></th>${heads}</tr></thead><tbody>${body.join("")}</tbody></table>`;
}

export type Option = Parameters<ReturnType<typeof echarts.init>["setOption"]>[0];

export function plot(title: string, option: Option): string {
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

export const axis = (name: string) => ({
  type: "value" as const,
  name,
  nameLocation: "middle" as const,
  nameGap: 34,
  nameTextStyle: { color: INK },
  axisLabel: { color: INK, hideOverlap: true },
  axisLine: { show: true, lineStyle: { color: INK } },
  splitLine: { lineStyle: { color: FAINT } },
});

export const line = (name: string, n: number, points: readonly (readonly number[])[], step: boolean) => ({
  type: "line" as const,
  name,
  symbol: "none",
  ...(step ? { step: "end" as const } : {}),
  lineStyle: { width: 2, type: DASHES[n % DASHES.length] ?? "solid" },
  data: thinned(points).map((point) => [...point]),
});

const POINTS_MAX = 600;

/** At most so many of the points, evenly: a plot has no more pixels. */
export function thinned<Point>(points: readonly Point[]): readonly Point[] {
  if (points.length <= POINTS_MAX) return points;
  const every = (points.length - 1) / (POINTS_MAX - 1);
  return Array.from({ length: POINTS_MAX }, (_, n) => points[Math.round(n * every)] as Point);
}

const escaped = (text: string) =>
  text.replace(/[&<>"]/g, (sign) => ({ "&": "&amp;", "<": "&lt;", ">": "&gt;", '"': "&quot;" })[sign] ?? sign);

export const round = (value: number) => (Math.abs(value) >= 100 ? Math.round(value) : Math.round(value * 10) / 10);

export const shown = (value: number | null | undefined, unit = "") =>
  value === null || value === undefined ? "none" : `${round(value)}${unit}`;
