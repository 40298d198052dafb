import { type AlertName, type AlertView, alertNames, alertRules } from "@yellow-harbor/protocol";
import type { AlertsConfig } from "../config/alerts.ts";
import { ReadingHistory, type Readings } from "./readings.ts";
import { rules } from "./rules.ts";

/** What has come of a look: alerts that are raised now, and those that were and are not any more. */
export interface AlertChange {
  readonly raised: readonly AlertView[];
  readonly cleared: readonly AlertView[];
}

interface Condition {
  readonly sinceMs: number;
  view: AlertView;
  isRaised: boolean;
}

/** Keeps track of what somebody should look at, from readings of the service. */
export class Alerts {
  #config: AlertsConfig;
  readonly #history = new ReadingHistory();
  /** What is so now, raised or not yet. */
  #conditions = new Map<string, Condition>();

  constructor(config: AlertsConfig) {
    this.#config = config;
  }

  /** Other thresholds from the next look on. */
  take(config: AlertsConfig): void {
    this.#config = config;
  }

  /** Those that are raised, the most urgent first, then the oldest. */
  get raised(): AlertView[] {
    const rank = ({ severity }: AlertView) => (severity === "page" ? 0 : 1);
    return [...this.#conditions.values()]
      .filter(({ isRaised }) => isRaised)
      .map(({ view }) => view)
      .sort((a, b) => rank(a) - rank(b) || a.sinceMs - b.sinceMs);
  }

  look(now: Readings): AlertChange {
    this.#history.add(now);
    const before = this.#conditions;
    this.#conditions = new Map();
    for (const name of alertNames) if (!this.#config[name].off) this.#judge(name, now, before);
    const all = [...this.#conditions];
    const raised = all.filter(([key, { isRaised }]) => isRaised && !before.get(key)?.isRaised);
    const cleared = [...before].filter(([key, { isRaised }]) => isRaised && !this.#conditions.has(key));
    return { raised: raised.map(([, { view }]) => view), cleared: cleared.map(([, { view }]) => view) };
  }

  #judge(alert: AlertName, now: Readings, before: ReadonlyMap<string, Condition>): void {
    const { over, forS } = this.#config[alert];
    for (const { subject, value, text, remedy } of rules[alert](now, this.#history)) {
      if (value <= over) continue;
      const key = `${alert} ${subject ?? ""}`;
      const sinceMs = before.get(key)?.sinceMs ?? now.atMs;
      const { severity } = alertRules[alert];
      const view = { alert, ...(subject !== undefined && { subject }), severity, sinceMs, value, over, text, remedy };
      this.#conditions.set(key, { sinceMs, view, isRaised: now.atMs - sinceMs >= forS * 1_000 });
    }
  }
}
