import type { Logger } from "pino";
import { lazyAccounts } from "./accounts/lazy-accounts.ts";
import { Alerts } from "./alerts/alerts.ts";
import { makeAccess } from "./api/make-access.ts";
import { createApi } from "./api/server.ts";
import { WatchHub } from "./api/watch-hub.ts";
import { ConfigInForce } from "./config/in-force.ts";
import { type ConfigReload, configReload } from "./config-reload.ts";
import { Echo } from "./echo/echo.ts";
import { eventObservers } from "./event-observers.ts";
import { AddressGate } from "./front-door/address-gate.ts";
import { trustedProxies } from "./front-door/caller.ts";
import { FrontDoor } from "./front-door/front-door.ts";
import { Tls } from "./front-door/tls.ts";
import { Gateway } from "./gateway/gateway.ts";
import { InstanceRelay } from "./gateway/instance-relay.ts";
import { PlayerDoor } from "./gateway/player-door.ts";
import { PlayerSockets } from "./gateway/player-sockets.ts";
import { textFilterOf } from "./gateway/text-filter.ts";
import { type DrainWish, goodbye } from "./goodbye.ts";
import { connectRuntime, effectRunner, makeMatcher, startRuntime } from "./harbor.ts";
import { HistoryCheck } from "./history/history-check.ts";
import type { Found, KeptHarbor } from "./journal/kept-harbor.ts";
import { Audit } from "./keys/audit.ts";
import { operatorTokenOf } from "./keys/operator-token.ts";
import { Tokens } from "./keys/tokens.ts";
import { noteTwoPlaces, TwoPlaces } from "./keys/two-places.ts";
import { Listening } from "./listening.ts";
import { Logs } from "./logs.ts";
import { AgentHub } from "./machines/agent/hub.ts";
import { Polls } from "./machines/polls.ts";
import { secretNamed } from "./machines/secrets.ts";
import { stopAllInstances } from "./machines/stop-all.ts";
import { gather } from "./metrics/gather.ts";
import { gatewayMeter } from "./metrics/meters.ts";
import { Metrics } from "./metrics/metrics.ts";
import { alertsPart, beginAll, endAll, keyFile, type Part } from "./part.ts";
import { beginHarbor } from "./runtime/begin.ts";
import { harborClock } from "./runtime/clock.ts";
import { problemOf } from "./runtime/failure.ts";
import { HarborKeeper } from "./runtime/keeper.ts";
import type { HarborRuntime, RuntimeParts } from "./runtime/runtime.ts";
import { stampMaker } from "./runtime/stamps.ts";
import { SeriesKeeper } from "./series/series-keeper.ts";
import type { RunningService, ServeOptions, ServicePhase } from "./start.ts";
import type { Tracing } from "./tracing/tracing.ts";
import { tracingOf } from "./tracing/tracing-of.ts";
import { SERVICE_VERSION } from "./version.ts";
import { Webhooks } from "./webhooks/webhooks.ts";
import { WorkerPool } from "./workers/worker-pool.ts";

/** Builds the service around its journal, listens, and lets it live. */
export async function assemble(
  options: ServeOptions,
  dataFolder: string,
  opening: Promise<KeptHarbor>,
): Promise<RunningService> {
  const { config } = options;
  const logs = new Logs(config.log, options.log);
  const log = logs.root;
  const inForce = new ConfigInForce(config);
  const kept = await opening;
  const now = harborClock(kept.lastAtMs);
  const tokens = new Tokens(kept.secret, config.harbor, now, { relays: config.instanceRelay.enabled });
  const stamp = stampMaker(now);
  const listening = new Listening(config.listen);
  const metrics = new Metrics();
  const webhooks = new Webhooks({
    config: () => inForce.current,
    store: kept.webhooks,
    log: logs.of("webhooks"),
    secretNamed: (name) => secretNamed(name, { secrets: inForce.current.secrets, folder: options.folder }),
    attempted: (webhook, result, events, tookMs) => {
      metrics.count("yh_webhook_events_total", { webhook, result }, events);
      metrics.observe("yh_webhook_seconds", { webhook }, tookMs / 1_000);
    },
  });
  let resolve: () => void = () => undefined;
  const asked = new Promise<void>((done) => {
    resolve = done;
  });
  const tracing = await tracingOf(config, options.folder, log);
  const base: Base = {
    drained: { asked, resolve },
    options,
    dataFolder,
    kept,
    logs,
    inForce,
    log,
    now,
    tokens,
    stamp,
    listening,
    readiness: { phase: "starting", drain: {} },
    metrics,
    tracing,
    webhooks,
    runtime: await startRuntime(config, kept, {
      inForce,
      observers: eventObservers(logs, tracing),
      tokens,
      stamp,
      log: logs.of("harbor"),
      metrics,
      wake: () => webhooks.wake(),
    }),
  };
  const { parts, reload } = await partsOf(base);
  await beginAll(parts);
  log.info({ url: listening.url, data: dataFolder, events: kept.lastSeq }, "ready");
  return {
    host: listening.host,
    port: listening.port,
    url: listening.url,
    operatorToken: operatorTokenOf(kept.secret),
    reload: reload.bySignal,
    drained: asked,
    stop: async () => {
      await endAll(parts);
      log.info("stopped");
    },
    failure: () => base.runtime.failure?.error,
  };
}

/** What the parts are built on. */
interface Base {
  readonly options: ServeOptions;
  readonly dataFolder: string;
  readonly kept: KeptHarbor;
  readonly logs: Logs;
  readonly inForce: ConfigInForce;
  readonly log: Logger;
  readonly now: () => number;
  readonly tokens: Tokens;
  readonly stamp: RuntimeParts["stamp"];
  readonly listening: Listening;
  readonly readiness: { phase: ServicePhase; drain: DrainWish };
  readonly drained: { readonly asked: Promise<void>; readonly resolve: () => void };
  readonly metrics: Metrics;
  readonly tracing: Tracing | undefined;
  readonly webhooks: Webhooks;
  readonly runtime: HarborRuntime;
}

/** All parts, each built on those above it and begun after them. */
async function partsOf(base: Base): Promise<{ parts: readonly Part[]; reload: ConfigReload }> {
  const { options, kept, logs, inForce, log, now, tokens, listening, readiness, metrics, tracing, webhooks, runtime } =
    base;
  const { config } = options;
  const trusts = trustedProxies(config.listen.trustedProxies);
  const [polls, watchers] = [new Polls(), new WatchHub(runtime)];
  const accounts = lazyAccounts(config.players.accounts, options.folder, now);
  const audit = new Audit({
    store: kept.operators,
    log: logs.of("operators"),
    keepDays: config.operators.auditDays,
    teller: { tell: (entry) => webhooks.tellAudit(entry), wake: () => webhooks.wake() },
  });
  const gateway = new Gateway({
    runtime,
    tokens,
    accounts,
    players: config.players,
    now,
    ownPort: () => listening.port,
    localWorlds: config.travel.localWorlds,
    audit,
    meter: gatewayMeter(metrics),
    textFilter: textFilterOf(config, options.folder, logs.of("players")),
    tracing,
  });
  const sockets = new PlayerSockets({ players: config.players, now, events: gateway.events, log: logs.of("players") });
  gateway.add(sockets);
  const { workers: processes = 1 } = options;
  const workers =
    processes > 1
      ? new WorkerPool({ count: processes - 1, config, now, events: gateway.events, log: logs.of("players") })
      : undefined;
  if (workers) gateway.add(workers);
  const twoPlaces = new TwoPlaces((found) => noteTwoPlaces(found, { log, audit }));
  const serviceUrl = () => config.listen.url ?? listening.url;
  const effects = effectRunner({ ...base, log: logs.of("instances"), polls, gateway, serviceUrl });
  const matcher = makeMatcher(runtime, { metrics, log: logs.of("harbor") });
  const agents = new AgentHub({
    runtime,
    tokens,
    log: logs.of("instances"),
    driverOf: (machine) => effects.agentOf(machine),
    config: () => inForce.current,
    twoPlaces,
    carryOut: (effect) => effects.carryOut(effect),
  });
  const relay = new InstanceRelay({ runtime, tokens, config, log });
  const echo = new Echo(config);
  const begin = ({ lastSeq }: Found) =>
    beginHarbor(runtime, { builds: config.builds, lastSeq, agents: effects.agents });
  const keeper = new HarborKeeper({ runtime, kept, log: logs.of("journal"), begin });
  // Before anything else waits: from the next turn on the runtime may have something to say.
  connectRuntime(runtime, {
    gateway,
    watchers,
    effects,
    matcher,
    failed: (failure) => {
      if (failure.what === "core") return;
      // Whoever comes again meanwhile is told the same, and tries on.
      gateway.endAll(problemOf(failure));
      agents.endAll();
      watchers.endAll();
      polls.answerAll();
      if (failure.what === "away") keeper.lost();
    },
  });
  const historyCheck = new HistoryCheck();
  const tls = config.listen.tls && new Tls(config.listen, options.folder, log);
  const alerts = new Alerts(config.alerts);
  const series = new SeriesKeeper({ ...base, log });
  const access = await makeAccess(config, kept, { audit, log: logs.of("operators") });
  const reload = configReload({ inForce, read: options.reload, runtime, alerts, logs, audit, webhooks });
  metrics.gatherFrom((figures) =>
    gather(
      {
        version: SERVICE_VERSION,
        runtime,
        isReady: () => readiness.phase === "ready",
        connectionCount: () => gateway.connectionCount,
        waitingCount: () => gateway.arrivals.line.size,
        watcherCount: () => watchers.count,
        wrongKeys: () => access.wrongKeys.count,
        keysInTwoPlaces: () => twoPlaces.count,
        relayFigures: () => (config.instanceRelay.enabled ? relay.figures : undefined),
        workers: () => workers?.views().workers ?? [],
        webhooks: () => webhooks.views(),
        alerts: () => alerts.raised,
        isJournalDamaged: () => historyCheck.fault !== undefined,
      },
      figures,
    ),
  );
  const api = await createApi(
    {
      inForce,
      applyConfig: reload.apply,
      version: SERVICE_VERSION,
      runtime,
      history: kept.history,
      dataFolder: base.dataFolder,
      tokens,
      polls,
      twoPlaces,
      watchers,
      startedAtMs: Date.now(),
      output: (instance, stream) => effects.driverOf(instance).output(instance, stream),
      workingFolder: options.folder,
      access,
      metrics,
      tracing,
      webhooks,
      alerts,
      series,
      audit,
      operators: kept.operators,
      addressOf: (player) => gateway.addressOf(player),
      playersFrom: (network) => gateway.playersFrom(trustedProxies([network])),
      trusts,
      connectionCount: () => gateway.connectionCount,
      waitingLine: gateway.arrivals.line,
      relayFigures: () => relay.figures,
      workers: () => workers?.views(),
      refusedLately: (player) => gateway.refused.of(player, Date.now()),
      notice: (to, players, text) => gateway.notice(to, players, text),
      consoleFolder: options.consoleFolder,
      reload: options.reload,
      journalFault: () => historyCheck.fault,
      phase: () => readiness.phase,
      drain: (wish) => {
        readiness.drain = wish;
        readiness.phase = "stopping";
        base.drained.resolve();
      },
    },
    logs.requests,
    tls?.certificate,
  );
  const frontDoor = new FrontDoor({
    gate: new AddressGate(config.players.perAddress),
    trusts,
    doors: [new PlayerDoor({ gateway, sockets, workers, origins: config.players.origins }), relay, agents, echo.door],
    sockets: config.players.perAddress.sockets,
    log,
    refused: (code) => metrics.count("yh_refusals_total", { to: "socket", code }),
  });
  const parts: Part[] = [
    { end: () => kept.close() },
    { end: () => metrics.close() },
    { end: () => tracing?.end() },
    { begin: () => webhooks.begin(), end: () => webhooks.end() },
    { end: () => historyCheck.end() },
    { begin: () => void audit.trim(), end: () => audit.end() },
    { end: () => api.close() },
    { end: () => effects.close() },
    { end: () => matcher.close() },
    { end: () => runtime.stop() },
    { begin: () => workers?.begin(), end: () => polls.answerAll() },
    { begin: () => series.begin(), end: () => series.end() },
    { begin: () => echo.begin(), end: () => echo.end() },
    { begin: () => frontDoor.attach(api.server) },
    { begin: () => listening.begin(api) },
    { begin: () => tls?.begin(api.server), end: () => tls?.end() },
    keyFile(config, base.dataFolder, operatorTokenOf(kept.secret), listening),
    {
      end: async () => {
        if (!options.stopInstances) return;
        runtime.suspendPlans();
        await stopAllInstances(effects, log);
      },
    },
    { end: () => agents.close() },
    { end: () => relay.close() },
    { end: () => gateway.close(goodbye(gateway.connectionCount, readiness.drain)) },
    // Whoever comes back while the others are being told goodbye would keep the service from ever stopping.
    { end: () => frontDoor.close() },
    { begin: () => begin(kept), end: () => keeper.end() },
    {
      begin: () => {
        readiness.phase = "ready";
      },
      end: () => {
        readiness.phase = "stopping";
      },
    },
    { begin: () => historyCheck.begin(kept.history, kept, logs.of("journal")) },
    alertsPart({
      alerts,
      metrics,
      runtime,
      dataFolder: base.dataFolder,
      log,
      connectionCount: () => gateway.connectionCount,
      webhooks: () => webhooks.views(),
      wrongKeys: () => access.wrongKeys.count,
      keysInTwoPlaces: () => twoPlaces.count,
      journalFault: () => historyCheck.fault,
      changed: (change) => webhooks.tellAlerts(change),
    }),
  ];
  return { parts, reload };
}
