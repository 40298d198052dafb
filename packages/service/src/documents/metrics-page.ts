import { definitions, labels, type MetricDefinition } from "../metrics/definitions.ts";

const GENERATED = "<!-- Made by `npm run docs` from the definitions of the metrics. Change those, not this file. -->";

/** The table of metrics. */
export function metricsPage(): string {
  const rows = Object.entries<MetricDefinition>(definitions).map(([name, { type, help, labels: own = [] }]) => {
    const labelled = own.map((label) => `\`${label}\``).join(", ");
    return `| \`${name}\` | ${type} | ${labelled === "" ? "-" : labelled} | ${help} |`;
  });
  const values = Object.entries(labels).map(([label, says]) => `| \`${label}\` | ${says} |`);
  return [
    "# Metrics",
    GENERATED,
    "",
    "`GET /metrics` answers with these figures as OpenMetrics text, to a key of role `look`. [Operations](operations.md#metrics) shows how",
    "they are read, and `monitoring/` has alert rules and a dashboard made of them.",
    "",
    "Counters begin at 0 when the process starts, and count what is durable. Gauges are read when somebody asks. Times are in seconds.",
    "The figures of the process itself are those of `prom-client`, which begin with `process_` and `nodejs_`.",
    "",
    "| metric | type | labels | what it says |",
    "|---|---|---|---|",
    ...rows,
    "",
    "## Labels",
    "",
    "No label takes a value that a stranger chooses, so the number of lines is bounded by the program and the configuration.",
    "",
    "| label | value |",
    "|---|---|",
    ...values,
    "",
  ].join("\n");
}
