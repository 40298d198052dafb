import { BarChart, LineChart } from "echarts/charts";
import { GridComponent, LegendComponent, TooltipComponent } from "echarts/components";
import * as echarts from "echarts/core";
import { SVGRenderer } from "echarts/renderers";
import { useEffect, useRef } from "react";

echarts.use([BarChart, LineChart, GridComponent, LegendComponent, TooltipComponent, SVGRenderer]);

/** One thing over time: the same colour wherever it is drawn. */
export interface Curve {
  readonly name: string;
  readonly colour: number;
  readonly points: readonly (readonly [atMs: number, value: number | null])[];
}

// Told apart by the colour-blind too (after Okabe and Ito), by day darkened and by dusk lightened to 4.5 to 1.
const COLOURS = {
  "harbor-day": ["#1B6A8F", "#A4501A", "#5B3F8C", "#2A6F53", "#8A3A4E"],
  "harbor-dusk": ["#8FC3DD", "#E0A55A", "#B9A6E6", "#6CC79F", "#F0A0A8"],
} as const;
const DASHES = ["solid", "dashed", "dotted", "solid", "dashed"] as const;

interface PlotProps {
  readonly label: string;
  readonly kind: "line" | "bar";
  readonly curves: readonly Curve[];
  readonly fromMs: number;
  readonly toMs: number;
  readonly theme: keyof typeof COLOURS;
}

/** On a narrow page the legend takes two lines. */
const topFor = (width: number): number => (width < 420 ? 60 : 34);

/** Draws curves over time. It keeps its size when what is drawn changes. */
export function Plot({ label, kind, curves, fromMs, toMs, theme }: PlotProps) {
  const box = useRef<HTMLDivElement>(null);
  const chart = useRef<echarts.ECharts>(undefined);
  useEffect(() => {
    if (box.current === null) return;
    const made = echarts.init(box.current, null, { renderer: "svg" });
    chart.current = made;
    const resized = new ResizeObserver(() => {
      made.resize();
      made.setOption({ grid: { top: topFor(made.getWidth()) } });
    });
    resized.observe(box.current);
    return () => {
      resized.disconnect();
      made.dispose();
    };
  }, []);
  useEffect(() => {
    const style = getComputedStyle(document.documentElement);
    const ink = style.getPropertyValue("--color-base-content").trim();
    const faint = style.getPropertyValue("--color-base-300").trim();
    const axis = { axisLine: { lineStyle: { color: faint } }, axisLabel: { color: ink }, splitLine: { show: false } };
    chart.current?.setOption({
      animation: false,
      textStyle: { fontFamily: style.getPropertyValue("--font-sans") },
      grid: { left: 44, right: 12, top: topFor(chart.current.getWidth()), bottom: 26 },
      legend: { top: 0, left: 0, itemGap: 16, itemWidth: 22, textStyle: { color: ink } },
      tooltip: { trigger: "axis", confine: true },
      xAxis: { type: "time", min: fromMs, max: toMs, ...axis, axisLabel: { color: ink, hideOverlap: true } },
      yAxis: { type: "value", minInterval: 1, ...axis, splitLine: { lineStyle: { color: faint } } },
      series: curves.map(({ name, colour, points }) => ({
        name,
        type: kind,
        data: points,
        color: COLOURS[theme][colour],
        ...(kind === "line"
          ? { showSymbol: false, lineStyle: { width: 2, type: DASHES[colour] } }
          : { barMaxWidth: 10, barGap: "10%" }),
      })),
    });
  }, [kind, curves, fromMs, toMs, theme]);
  return <div ref={box} role="img" aria-label={label} className="h-56 w-full" />;
}
