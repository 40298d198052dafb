import { problem } from "@yellow-harbor/protocol";
import { noteKeyFile } from "@yellow-harbor/reach";
import pino, { type Logger } from "pino";
import { lazyAccounts } from "./accounts/lazy-accounts.ts";
import { Alerts } from "./alerts/alerts.ts";
import { type AlertSources, watchForAlerts } from "./alerts/watch.ts";
import { makeAccess } from "./api/make-access.ts";
import { createApi } from "./api/server.ts";
import { WatchHub } from "./api/watch-hub.ts";
import type { Config } from "./config/schema.ts";
import { AddressGate } from "./front-door/address-gate.ts";
import { trustedProxies } from "./front-door/caller.ts";
import { FrontDoor } from "./front-door/front-door.ts";
import { Tls } from "./front-door/tls.ts";
import { Gateway } from "./gateway/gateway.ts";
import { InstanceRelay } from "./gateway/instance-relay.ts";
import { PlayerDoor } from "./gateway/player-door.ts";
import { PlayerSockets } from "./gateway/player-sockets.ts";
import { connectRuntime, effectRunner, startRuntime } from "./harbor.ts";
import { HistoryCheck } from "./history/history-check.ts";
import type { Found, KeptHarbor } from "./journal/kept-harbor.ts";
import { Audit, NOBODY } from "./keys/audit.ts";
import { writeKeyFile } from "./keys/key-file.ts";
import { operatorTokenOf } from "./keys/operator-token.ts";
import { Tokens } from "./keys/tokens.ts";
import { TwoPlaces } from "./keys/two-places.ts";
import { Listening } from "./listening.ts";
import { AgentHub } from "./machines/agent/hub.ts";
import { Polls } from "./machines/polls.ts";
import { secretNamed } from "./machines/secrets.ts";
import { stopAllInstances } from "./machines/stop-all.ts";
import { gather } from "./metrics/gather.ts";
import { gatewayMeter } from "./metrics/meters.ts";
import { Metrics } from "./metrics/metrics.ts";
import { beginHarbor } from "./runtime/begin.ts";
import { harborClock } from "./runtime/clock.ts";
import { problemOf } from "./runtime/failure.ts";
import { HarborKeeper } from "./runtime/keeper.ts";
import type { HarborRuntime, RuntimeParts } from "./runtime/runtime.ts";
import { stampMaker } from "./runtime/stamps.ts";
import type { RunningService, ServeOptions, ServicePhase } from "./start.ts";
import { SERVICE_VERSION } from "./version.ts";
import { Webhooks } from "./webhooks/webhooks.ts";
import { WorkerPool } from "./workers/worker-pool.ts";

/** A part of the service that has something to do when it starts or stops. */
interface Part {
  readonly begin?: () => Promise<void> | void;
  readonly end?: () => Promise<void> | void;
}

/** Builds the service around its journal, listens, and lets it live. */
export async function assemble(
  options: ServeOptions,
  dataFolder: string,
  opening: Promise<KeptHarbor>,
): Promise<RunningService> {
  const { config } = options;
  const log = options.log ?? pino({ level: config.log.level, base: undefined });
  const kept = await opening;
  const now = harborClock(kept.lastAtMs);
  const tokens = new Tokens(kept.secret, config.harbor, now, { relays: config.instanceRelay.enabled });
  const stamp = stampMaker(now);
  const listening = new Listening(config.listen);
  const metrics = new Metrics();
  const webhooks = new Webhooks({
    config,
    store: kept.webhooks,
    log,
    secretNamed: (name) => secretNamed(name, { secrets: config.secrets, folder: options.folder }),
    attempted: (webhook, result, events, tookMs) => {
      metrics.count("yh_webhook_events_total", { webhook, result }, events);
      metrics.observe("yh_webhook_seconds", { webhook }, tookMs / 1_000);
    },
  });
  const base: Base = {
    options,
    dataFolder,
    kept,
    log,
    now,
    tokens,
    stamp,
    listening,
    readiness: { phase: "starting" },
    metrics,
    webhooks,
    runtime: await startRuntime(config, kept, { tokens, stamp, log, metrics, wake: () => webhooks.wake() }),
  };
  const parts = await partsOf(base);
  for (const [n, { begin }] of parts.entries()) {
    try {
      await begin?.();
    } catch (error) {
      await endAll(parts.slice(0, n));
      throw error;
    }
  }
  log.info({ url: listening.url, data: dataFolder, events: kept.lastSeq }, "ready");
  return {
    host: listening.host,
    port: listening.port,
    url: listening.url,
    operatorToken: operatorTokenOf(kept.secret),
    stop: async () => {
      await endAll(parts);
      log.info("stopped");
    },
    failure: () => base.runtime.failure?.error,
  };
}

/** The last to begin ends first. */
async function endAll(parts: readonly Part[]): Promise<void> {
  for (const { end } of [...parts].reverse()) await end?.();
}

/** What the parts are built on. */
interface Base {
  readonly options: ServeOptions;
  readonly dataFolder: string;
  readonly kept: KeptHarbor;
  readonly log: Logger;
  readonly now: () => number;
  readonly tokens: Tokens;
  readonly stamp: RuntimeParts["stamp"];
  readonly listening: Listening;
  readonly readiness: { phase: ServicePhase };
  readonly metrics: Metrics;
  readonly webhooks: Webhooks;
  readonly runtime: HarborRuntime;
}

/** All parts, each built on those above it and begun after them. */
async function partsOf(base: Base): Promise<readonly Part[]> {
  const { options, kept, log, now, tokens, listening, readiness, metrics, webhooks, runtime } = base;
  const { config } = options;
  const trusts = trustedProxies(config.listen.trustedProxies);
  const polls = new Polls();
  const watchers = new WatchHub(runtime);
  const accounts = lazyAccounts(config.players.accounts, options.folder, now);
  const audit = new Audit({ store: kept.operators, log, keepDays: config.operators.auditDays });
  const gateway = new Gateway({
    runtime,
    tokens,
    accounts,
    players: config.players,
    ownPort: () => listening.port,
    localWorlds: config.travel.localWorlds,
    audit,
    meter: gatewayMeter(metrics),
  });
  const sockets = new PlayerSockets({ players: config.players, now, events: gateway.events, log });
  gateway.add(sockets);
  const { workers: processes = 1 } = options;
  const workers =
    processes > 1 ? new WorkerPool({ count: processes - 1, config, now, events: gateway.events, log }) : undefined;
  if (workers) gateway.add(workers);
  const twoPlaces = new TwoPlaces(({ holder, from }) => {
    log.warn({ holder, from }, "a key is used from two places");
    void audit.add({
      actor: NOBODY,
      from: from.join(" "),
      action: "key-in-two-places",
      target: holder,
      result: "seen",
    });
  });
  const serviceUrl = () => config.listen.url ?? listening.url;
  const effects = effectRunner({ ...base, polls, gateway, serviceUrl });
  const agents = new AgentHub({
    runtime,
    tokens,
    log,
    drivers: effects.agents,
    machines: config.machines,
    twoPlaces,
    carryOut: (effect) => effects.carryOut(effect),
  });
  const relay = new InstanceRelay({ runtime, tokens, config, log });
  const begin = ({ lastSeq }: Found) =>
    beginHarbor(runtime, { builds: config.builds, lastSeq, agents: effects.agents.keys() });
  const keeper = new HarborKeeper({ runtime, kept, log, begin });
  // Before anything else waits: from the next turn on the runtime may have something to say.
  connectRuntime(runtime, {
    gateway,
    watchers,
    effects,
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
  const access = await makeAccess(config, kept, { audit, log });
  metrics.gatherFrom((figures) =>
    gather(
      {
        version: SERVICE_VERSION,
        runtime,
        isReady: () => readiness.phase === "ready",
        connectionCount: () => gateway.connectionCount,
        watcherCount: () => watchers.count,
        wrongKeys: () => access.wrongKeys.count,
        keysInTwoPlaces: () => twoPlaces.count,
        relayFigures: () => (config.instanceRelay.enabled ? relay.figures : undefined),
        workerSockets: () => workers?.views().workers.reduce((sum, { connections }) => sum + connections, 0),
        webhooks: () => webhooks.views(),
        alerts: () => alerts.raised,
        isJournalDamaged: () => historyCheck.fault !== undefined,
      },
      figures,
    ),
  );
  const api = await createApi(
    {
      config,
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
      webhooks,
      alerts,
      audit,
      operators: kept.operators,
      addressOf: (player) => gateway.addressOf(player),
      playersFrom: (network) => gateway.playersFrom(trustedProxies([network])),
      trusts,
      connectionCount: () => gateway.connectionCount,
      relayFigures: () => relay.figures,
      workers: () => workers?.views(),
      notice: (to, players, text) => gateway.notice(to, players, text),
      consoleFolder: options.consoleFolder,
      reload: options.reload,
      journalFault: () => historyCheck.fault,
      phase: () => readiness.phase,
    },
    log,
    tls?.certificate,
  );
  const gate = new AddressGate(config.players.perAddress);
  const frontDoor = new FrontDoor({
    gate,
    trusts,
    doors: [new PlayerDoor({ gateway, sockets, workers, origins: config.players.origins }), relay, agents],
    sockets: config.players.perAddress.sockets,
    log,
    refused: (code) => metrics.count("yh_refusals_total", { to: "socket", code }),
  });
  return [
    { end: () => kept.close() },
    { end: () => metrics.close() },
    { begin: () => webhooks.begin(), end: () => webhooks.end() },
    { end: () => historyCheck.end() },
    { begin: () => void audit.trim(), end: () => audit.end() },
    { end: () => api.close() },
    { end: () => effects.close() },
    { end: () => runtime.stop() },
    { end: () => polls.answerAll() },
    { begin: () => workers?.begin() },
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
    { end: () => gateway.close(goodbye(gateway.connectionCount)) },
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
    { begin: () => historyCheck.begin(kept.history, kept, log) },
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
}

const RETRY_MIN_MS = 500;
/** Tries in a second that all who come back make together, at the most. */
const RETRIES_PER_SECOND = 4_000;

/** Those who come back try often enough to notice a start soon, and seldom enough not to be in its way. */
const goodbye = (connections: number) =>
  problem("shutting-down", "The service is stopping; connect again in a moment to resume.", {
    retryEveryMs: Math.max(RETRY_MIN_MS, Math.ceil((connections / RETRIES_PER_SECOND) * 1_000)),
  });

function alertsPart(sources: AlertSources): Part {
  let stop: () => void = () => undefined;
  return {
    begin: () => {
      stop = watchForAlerts(sources);
    },
    end: () => stop(),
  };
}

/** Where operators need a key, the first is in the data folder, and `yh` of the same user finds it there. */
function keyFile({ operators }: Config, dataFolder: string, key: string, listening: Listening): Part {
  if (operators.access === "open") return {};
  let takeBack: () => void = () => undefined;
  return {
    begin: () => {
      takeBack = noteKeyFile(Number(new URL(listening.url).port), writeKeyFile(dataFolder, key));
    },
    end: () => takeBack(),
  };
}
