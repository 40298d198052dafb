import { Counter, collectDefaultMetrics, Gauge, Histogram, Registry } from "prom-client";
import { definitions, type LabelsOf, type MetricDefinition, type MetricName, type NamesOf } from "./definitions.ts";

/** Labels and value of one line of a gauge. */
type Reading<N extends MetricName> = readonly [labels: LabelsOf<N>, value: number];

/** Sets gauges to what is so now: those that are not set have no line in the answer. */
export type SetGauge = <N extends NamesOf<"gauge">>(name: N, ...readings: readonly Reading<N>[]) => void;

/** What is filled in when somebody asks. */
export interface Figures {
  readonly set: SetGauge;
  /** What a counter stands at that somebody else counts for. */
  readonly setTotal: (name: NamesOf<"counter">, value: number) => void;
}

/** The library throws at what is none, and nothing that is only counted may stop what it is counted of. */
const isNumber = (value: number) => Number.isFinite(value);

interface Tally {
  readonly label: string;
  readonly byValue: Map<string, number>;
}

export const METRICS_TYPE = Registry.OPENMETRICS_CONTENT_TYPE;

/**
 * Figures of the service for monitoring systems. What happens is counted as it becomes durable; what is so is gathered when
 * somebody asks. Counters begin at 0 with the process.
 */
export class Metrics {
  readonly #registry = new Registry<typeof METRICS_TYPE>();
  readonly #counters = new Map<MetricName, Counter>();
  readonly #gauges = new Map<MetricName, Gauge>();
  readonly #tallies = new Map<MetricName, Tally>();
  readonly #histograms = new Map<MetricName, Histogram>();
  #gather: (figures: Figures) => Promise<void> = async () => undefined;
  #last: Promise<unknown> = Promise.resolve();
  #next: Promise<string> | undefined;

  constructor() {
    this.#registry.setContentType(METRICS_TYPE);
    for (const [key, definition] of Object.entries<MetricDefinition>(definitions)) {
      const name = key as MetricName;
      const { type, help, labels: labelNames = [], buckets = [] } = definition;
      const options = { name, help, labelNames: [...labelNames], registers: [this.#registry] };
      if (type === "counter") this.#counters.set(name, new Counter(options));
      else if (type === "gauge") this.#gauges.set(name, new Gauge(options));
      else this.#histograms.set(name, new Histogram({ ...options, buckets: [...buckets] }));
    }
    collectDefaultMetrics({ register: this.#registry });
  }

  /** What a counter stands at, by the value of a label. */
  async totals<N extends NamesOf<"counter">>(name: N, label: keyof LabelsOf<N>): Promise<Record<string, number>> {
    const { values = [] } = (await this.#counters.get(name)?.get()) ?? {};
    return Object.fromEntries(values.map(({ labels, value }) => [String(labels[String(label)]), value]));
  }

  /** What a counter without labels stands at. */
  async total(name: NamesOf<"counter">): Promise<number> {
    const { values = [] } = (await this.#counters.get(name)?.get()) ?? {};
    return values.reduce((sum, { value }) => sum + value, 0);
  }

  /** How many values a histogram without labels has taken, and how many of them above one of its bounds. */
  async histogram(name: NamesOf<"histogram">, bound: number): Promise<{ count: number; over: number }> {
    const { values = [] } = (await this.#histograms.get(name)?.get()) ?? {};
    const upTo = (le: number | string) => values.find(({ labels }) => labels.le === le)?.value ?? 0;
    const count = upTo("+Inf");
    return { count, over: count - upTo(bound) };
  }

  /** What is gathered for each answer. It must not reject. */
  gatherFrom(gather: (figures: Figures) => Promise<void>): void {
    this.#gather = gather;
  }

  count<N extends NamesOf<"counter">>(name: N, labels: LabelsOf<N>, by = 1): void {
    if (isNumber(by) && by > 0) this.#counters.get(name)?.inc(labels, by);
  }

  /** {@link count} for what happens many times a second: added up here, and counted when somebody asks. */
  tally<N extends NamesOf<"counter">>(name: N, label: keyof LabelsOf<N>, value: string): void {
    let tally = this.#tallies.get(name);
    if (tally === undefined) {
      tally = { label, byValue: new Map() };
      this.#tallies.set(name, tally);
    }
    tally.byValue.set(value, (tally.byValue.get(value) ?? 0) + 1);
  }

  observe<N extends NamesOf<"histogram">>(name: N, labels: LabelsOf<N>, value: number): void {
    if (isNumber(value)) this.#histograms.get(name)?.observe(labels, value);
  }

  /** All figures as OpenMetrics text. Those who ask while another answer is being written share the next one. */
  text(): Promise<string> {
    if (this.#next) return this.#next;
    const next = this.#last.then(() => this.#write());
    this.#next = next;
    this.#last = next.catch(() => undefined);
    return next;
  }

  /** Lets go of what measures the process. */
  close(): void {
    this.#registry.clear();
  }

  #countTallies(): void {
    for (const [name, { label, byValue }] of this.#tallies) {
      for (const [value, by] of byValue) this.#counters.get(name)?.inc({ [label]: value }, by);
      byValue.clear();
    }
  }

  async #write(): Promise<string> {
    this.#next = undefined;
    const startedMs = performance.now();
    this.#countTallies();
    for (const gauge of this.#gauges.values()) gauge.reset();
    await this.#gather({
      set: (name, ...readings) => {
        for (const [labels, value] of readings) if (isNumber(value)) this.#gauges.get(name)?.set(labels, value);
      },
      setTotal: (name, value) => {
        this.#counters.get(name)?.reset();
        this.#counters.get(name)?.inc(value);
      },
    });
    this.#gauges.get("yh_scrape_seconds")?.set((performance.now() - startedMs) / 1_000);
    return this.#registry.metrics();
  }
}
