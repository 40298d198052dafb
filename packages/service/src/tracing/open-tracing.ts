import { context, ROOT_CONTEXT, SpanKind, SpanStatusCode, type Tracer, trace } from "@opentelemetry/api";
import { type ExportResult, ExportResultCode, W3CTraceContextPropagator } from "@opentelemetry/core";
import { OTLPTraceExporter } from "@opentelemetry/exporter-trace-otlp-http";
import { resourceFromAttributes } from "@opentelemetry/resources";
import {
  AlwaysOnSampler,
  BasicTracerProvider,
  BatchSpanProcessor,
  type ReadableSpan,
  type SpanExporter,
} from "@opentelemetry/sdk-trace-base";
import type { Logger } from "pino";
import type { TracingConfig } from "../config/tracing.ts";
import { SERVICE_VERSION } from "../version.ts";
import type { HttpTrace, RequestTrace, Tracing } from "./tracing.ts";
import { TravelTraces } from "./travel-traces.ts";

interface TracingParts {
  readonly config: TracingConfig;
  readonly harbor: string;
  /** The token that is sent along, when there is one. */
  readonly token: string | undefined;
  readonly log: Pick<Logger, "warn">;
}

/** How long the end of the service waits for what was traced last. */
const LAST_MS = 2_000;

/** Traces a share of what is asked and travelled, and sends it. The SDK's own queue is bounded: what does not fit is dropped. */
export function openTracing({ config, harbor, token, log }: TracingParts): Tracing {
  const headers: Record<string, string> = token === undefined ? {} : { authorization: `Bearer ${token}` };
  const exporter = told(new OTLPTraceExporter({ url: config.url, headers, timeoutMillis: 5_000 }), log);
  const provider = new BasicTracerProvider({
    resource: resourceFromAttributes({
      "service.name": "yellow-harbor",
      "service.version": SERVICE_VERSION,
      "service.namespace": harbor,
    }),
    sampler: new AlwaysOnSampler(),
    spanProcessors: [new BatchSpanProcessor(exporter, { scheduledDelayMillis: 1_000 })],
  });
  const tracer = provider.getTracer("yellow-harbor", SERVICE_VERSION);
  const isChosen = () => Math.random() < config.share;
  const travels = new TravelTraces(tracer, isChosen);
  return {
    request: (ask, player) => (isChosen() ? requestTrace(tracer, ask, player) : undefined),
    http: (method, traceparent) => httpTrace(tracer, method, traceparent, isChosen),
    happened: (event, atMs, state) => travels.take(event, atMs, state),
    end: async () => {
      let timer: NodeJS.Timeout | undefined;
      const late = new Promise<void>((resolve) => {
        timer = setTimeout(resolve, LAST_MS);
      });
      await Promise.race([provider.shutdown().catch(() => undefined), late]);
      clearTimeout(timer);
    },
  };
}

/** Of one clock for all spans of a request: each span's own would differ from the others by fractions of a millisecond. */
const nowMs = (): number => performance.timeOrigin + performance.now();

function requestTrace(tracer: Tracer, ask: string, player: string): RequestTrace {
  const attributes = { "yh.player": player };
  const beganMs = nowMs();
  const root = tracer.startSpan(ask, { kind: SpanKind.SERVER, attributes, startTime: beganMs }, ROOT_CONTEXT);
  const within = trace.setSpan(ROOT_CONTEXT, root);
  const begin = (name: string, startTime: number) => tracer.startSpan(name, { startTime }, within);
  let step = begin("decide", beganMs);
  const next = (name: string) => {
    const at = nowMs();
    step.end(at);
    step = begin(name, at);
  };
  let isAnswered = false;
  return {
    decided: () => {
      // What is refused at once is answered before this is said.
      if (!isAnswered) next("commit");
    },
    answered: (refused) => {
      isAnswered = true;
      if (refused !== undefined) root.setAttribute("yh.problem", refused);
      next("deliver");
      // Everything for this turn is written to the sockets before the next one begins.
      setImmediate(() => {
        const at = nowMs();
        step.end(at);
        root.end(at);
      });
    },
  };
}

const propagator = new W3CTraceContextPropagator();
const getter = { get: (carrier: { traceparent?: string }) => carrier.traceparent, keys: () => ["traceparent"] };
const SAMPLED = 1;

function httpTrace(
  tracer: Tracer,
  method: string,
  traceparent: string | undefined,
  isChosen: () => boolean,
): HttpTrace | undefined {
  const from = traceparent === undefined ? ROOT_CONTEXT : propagator.extract(context.active(), { traceparent }, getter);
  const caller = trace.getSpanContext(from);
  const isTraced = caller !== undefined && (caller.traceFlags & SAMPLED) !== 0;
  if (!isTraced && !isChosen()) return undefined;
  const attributes = { "http.request.method": method };
  const span = tracer.startSpan(method, { kind: SpanKind.SERVER, attributes }, isTraced ? from : ROOT_CONTEXT);
  return {
    ended: (route, status, code) => {
      span.updateName(`${method} ${route}`);
      span.setAttributes({ "http.route": route, "http.response.status_code": status });
      if (code !== null) span.setAttribute("yh.problem", code);
      if (status >= 500) span.setStatus({ code: SpanStatusCode.ERROR });
      span.end();
    },
  };
}

const WARN_EVERY_MS = 60_000;

/** An exporter whose failures are told, once a minute at the most. */
function told(exporter: SpanExporter, log: TracingParts["log"]): SpanExporter {
  let warnedAtMs = Number.NEGATIVE_INFINITY;
  return {
    export: (spans: ReadableSpan[], done: (result: ExportResult) => void) =>
      exporter.export(spans, (result) => {
        const at = performance.now();
        if (result.code !== ExportResultCode.SUCCESS && at - warnedAtMs > WARN_EVERY_MS) {
          warnedAtMs = at;
          log.warn({ err: result.error, spans: spans.length }, "traces cannot be sent; see tracing.url");
        }
        done(result);
      }),
    shutdown: () => exporter.shutdown(),
  };
}
