// Panels of the dashboard, drawn from what a real Prometheus has scraped of the demo.
import { spawn } from "node:child_process";
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { setTimeout as wait } from "node:timers/promises";
import { ensurePrometheus } from "../programs.mjs";
import { ROOT } from "../run.mjs";

const PORT = 7_449;
const PANELS = [
  "Players",
  "Rooms by phase",
  "Travel time, p90",
  "Instances",
  "Time to answer a request",
  "Time to make a batch durable",
];
const SECONDS = 90;

const prometheus = (path, query) =>
  fetch(`http://127.0.0.1:${PORT}/api/v1/${path}?${new URLSearchParams(query)}`).then((response) => response.json());

/** Scrapes the service for a while; resolves with the panels and their series. */
async function seriesOf(url) {
  const folder = mkdtempSync(join(tmpdir(), "yellow-harbor-metrics-"));
  const config = join(folder, "prometheus.yml");
  const target = new URL(url).host;
  const scrape = `  - { job_name: yellow-harbor, static_configs: [{ targets: ["${target}"] }] }`;
  writeFileSync(config, `global: { scrape_interval: 2s }\nscrape_configs:\n${scrape}\n`);
  const args = [
    `--config.file=${config}`,
    `--storage.tsdb.path=${join(folder, "data")}`,
    `--web.listen-address=127.0.0.1:${PORT}`,
  ];
  const program = await ensurePrometheus();
  const child = spawn(program, args, { stdio: "ignore" });
  const ended = new Promise((resolve) => child.once("exit", resolve));
  try {
    await wait(SECONDS * 1_000);
    const { panels } = JSON.parse(readFileSync(join(ROOT, "monitoring/dashboard.json"), "utf8"));
    const end = Math.floor(Date.now() / 1_000);
    const asked = PANELS.map(async (title) => {
      const panel = panels.find((one) => one.title === title);
      const found = panel.targets.map(async ({ expr, legendFormat = "" }) => {
        const query = expr.replaceAll("$__rate_interval", "20s").replaceAll(',instance=~"$instance"', "");
        const { data } = await prometheus("query_range", { query, start: end - SECONDS + 20, end, step: 2 });
        return data.result.map(({ metric, values }) => ({
          name:
            legendFormat.replace(/\{\{\s*(\w+)\s*\}\}/g, (_whole, label) => metric[label] ?? "") ||
            Object.values(metric).join(" "),
          values: values.map(([at, value]) => [at * 1_000, Number(value)]),
        }));
      });
      const series = (await Promise.all(found)).flat();
      return { title, unit: panel.fieldConfig?.defaults?.unit === "s" ? "s" : "", series };
    });
    return await Promise.all(asked);
  } finally {
    child.kill("SIGTERM");
    await ended;
    rmSync(folder, { recursive: true, force: true });
  }
}

/** A page with the panels: titles, units and legends are those of the dashboard. */
export async function metricsScreenshot(browser, url, file) {
  const panels = await seriesOf(url);
  const echarts = readFileSync(join(ROOT, "node_modules/echarts/dist/echarts.min.js"), "utf8");
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 }, colorScheme: "dark" });
  await page.setContent(`<!doctype html><style>
    body { margin: 0; background: #0d2433; color: #e9f0f2; font: 13px "DejaVu Sans", sans-serif }
    main { display: grid; grid-template-columns: 1fr 1fr; gap: 10px; padding: 14px }
    section { background: #1c3a4c; border-radius: 8px; padding: 8px 10px; height: 236px }
    h2 { margin: 0 0 2px; font-size: 13px } div { height: 212px }
  </style><main>${panels.map(({ title, unit }) => `<section><h2>${title}${unit && `, ${unit}`}</h2><div></div></section>`).join("")}</main>`);
  await page.addScriptTag({ content: echarts });
  await page.evaluate((shown) => {
    const colours = ["#f5b81c", "#8fc3dd", "#6cc79f", "#f0806c", "#c9a6e4", "#e0a55a", "#9fb4bf"];
    for (const [n, place] of document.querySelectorAll("section div").entries()) {
      const { series, unit } = shown[n];
      const text = { color: "#e9f0f2", fontSize: 11 };
      window.echarts.init(place).setOption({
        animation: false,
        color: colours,
        grid: { left: 52, right: 12, top: 12, bottom: 46 },
        legend: { bottom: 0, itemWidth: 14, itemHeight: 8, textStyle: text, type: "scroll" },
        xAxis: {
          type: "time",
          axisLabel: { ...text, hideOverlap: true },
          axisLine: { lineStyle: { color: "#48687a" } },
        },
        yAxis: {
          type: "value",
          min: 0,
          axisLabel: {
            ...text,
            formatter: (value) =>
              unit === "s" && value < 1
                ? `${Number((value * 1000).toPrecision(3))} ms`
                : `${value}${unit && ` ${unit}`}`,
          },
          splitLine: { lineStyle: { color: "#2c4f62" } },
        },
        series: series.map(({ name, values }) => ({
          name,
          type: "line",
          showSymbol: false,
          data: values,
          lineStyle: { width: 2 },
        })),
      });
    }
  }, panels);
  await page.screenshot({ path: file });
  await page.close();
}
