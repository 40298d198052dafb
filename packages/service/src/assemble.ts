import type { AddressInfo } from "node:net";
import { join } from "node:path";
import { setTimeout as wait } from "node:timers/promises";
import { problem } from "@yellow-harbor/protocol";
import pino, { type Logger } from "pino";
import { AgentHub } from "./agent/hub.ts";
import { isLoopback } from "./api/access.ts";
import type { Api } from "./api/parts.ts";
import { createApi } from "./api/server.ts";
import { WatchHub } from "./api/watch-hub.ts";
import { rulesOf } from "./config/rules.ts";
import type { Config } from "./config/schema.ts";
import { AddressGate } from "./front-door/address-gate.ts";
import { trustedProxies } from "./front-door/caller.ts";
import { FrontDoor } from "./front-door/front-door.ts";
import { Gateway } from "./gateway/gateway.ts";
import { InstanceRelay } from "./gateway/instance-relay.ts";
import { harborClock } from "./harbor/clock.ts";
import { recoverHarbor } from "./harbor/recover.ts";
import { HarborRuntime, type RuntimeParts } from "./harbor/runtime.ts";
import { eventLoop } from "./harbor/scheduler.ts";
import { stampMaker } from "./harbor/stamps.ts";
import type { OpenedJournal } from "./journal/journal.ts";
import { PastCheck } from "./journal/past-check.ts";
import { operatorTokenOf } from "./keys/operator-token.ts";
import { Tokens } from "./keys/tokens.ts";
import { EffectRunner } from "./machines/effects.ts";
import { makeDrivers } from "./machines/make-drivers.ts";
import { Pulses } from "./machines/pulses.ts";
import { type RunningService, type ServeOptions, StartError } from "./start.ts";
import { SERVICE_VERSION } from "./version.ts";

/** Builds the service around its journal, listens, and lets it live. */
export async function assemble(
  options: ServeOptions,
  dataFolder: string,
  opening: Promise<OpenedJournal>,
): Promise<RunningService> {
  const { config, folder, stopInstances = false } = options;
  const log = options.log ?? pino({ level: config.log.level, base: undefined });
  const startedAtMs = Date.now();
  const opened = await opening;
  const { journal, secret, lastSeq, lastAtMs } = opened;
  const now = harborClock(lastAtMs);
  const tokens = new Tokens(secret, config.harbor, now, { relays: config.instanceRelay.enabled });
  const stamp = stampMaker(now);
  const runtime = await startRuntime(config, opened, { tokens, stamp, log });
  const pulses = new Pulses();
  const gateway = new Gateway({
    runtime,
    tokens,
    now,
    players: config.players,
    ownPort: () => running.port,
    log,
  });
  const watchers = new WatchHub(runtime);
  const effects = new EffectRunner({
    runtime,
    tokens,
    pulses,
    log,
    probeWorlds: config.travel.probe,
    addressOf: (player) => gateway.addressOf(player),
    environmentOf: (pool) => config.pools[pool]?.environment ?? {},
    makeDrivers: (events) =>
      makeDrivers(
        config.machines,
        {
          events,
          log,
          workingFolder: folder,
          output: config.output,
          folder: join(dataFolder, "instances"),
          serviceUrl: () => config.listen.url ?? running.url,
        },
        (machine, instance) => runtime.decided.state.pools.instances.get(instance)?.machine === machine,
      ),
  });
  const agents = new AgentHub({
    runtime,
    tokens,
    log,
    drivers: effects.agents,
    carryOut: (effect) => effects.carryOut(effect),
  });
  // Before anything else waits: from the next turn on the runtime may have something to say.
  runtime.connect({
    push: (push) => gateway.push(push),
    pass: (player, pass) => gateway.pass(player, pass),
    isFollowed: () => gateway.isFollowed,
    listing: (change) => gateway.listing(change),
    happened: (happened) => watchers.happened(happened),
    effect: (effect) => {
      if (effect.effect !== "end-connection") return effects.carryOut(effect);
      gateway.end(effect.player, problem(effect.code, effect.detail));
    },
    flush: () => gateway.flush(),
  });
  const pastCheck = new PastCheck();
  let isReady = false;
  const operatorToken = operatorTokenOf(secret);
  const loopbackIsEnough = config.operators.access === "loopback" && isLoopback(config.listen.host);
  const trusts = trustedProxies(config.listen.trustedProxies);
  const api = await createApi(
    {
      config,
      version: SERVICE_VERSION,
      runtime,
      journal,
      dataFolder,
      tokens,
      pulses,
      watchers,
      startedAtMs,
      output: (instance, stream) => effects.driverOf(instance).output(instance, stream),
      workingFolder: folder,
      access: { loopbackIsEnough, token: operatorToken },
      trusts,
      connectionCount: () => gateway.connectionCount,
      relayFigures: () => relay.figures,
      notice: (to, players, text) => gateway.notice(to, players, text),
      consoleFolder: options.consoleFolder,
      reload: options.reload,
      journalFault: () => pastCheck.fault,
      isReady: () => isReady,
    },
    log,
  );
  const relay = new InstanceRelay({ runtime, tokens, config, log });
  const frontDoor = new FrontDoor({
    gate: new AddressGate(config.players.perAddress),
    trusts,
    doors: [gateway, relay, agents],
    log,
  });
  frontDoor.attach(api.server);
  const port = await listen(api, config).catch(async (error: unknown) => {
    await journal.close();
    effects.close();
    throw error;
  });

  const stop = async () => {
    isReady = false;
    // Whoever comes back while the others are being told goodbye would keep the service from ever stopping.
    frontDoor.close();
    await gateway.close(problem("shutting-down", "The service is stopping; connect again in a moment to resume."));
    relay.close();
    agents.close();
    if (stopInstances) {
      runtime.suspendPlans();
      await stopAllInstances(effects, log);
    }
    pulses.answerAll();
    await runtime.stop();
    effects.close();
    await api.close();
    pastCheck.end();
    await journal.close();
    log.info("stopped");
  };
  const host = config.listen.host;
  const running: RunningService = {
    host,
    port,
    operatorToken,
    stop,
    url: `http://${reachable(host)}:${port}`,
    failure: () => runtime.failure?.error,
  };
  // Only now can instances reach the service, so only now are effects of the time before carried out.
  if (lastSeq === 0) await runtime.ask({ do: "harbor.found", codeKey: stamp().entropy });
  for (const [line, spec] of Object.entries(config.builds)) await runtime.ask({ do: "build.configure", line, spec });
  // Agents come again by themselves; until then nothing is started on their machines.
  for (const machine of effects.agents.keys()) {
    await runtime.ask({
      do: "machine.lose",
      machine,
      why: "the service was started anew; its agent has not come back yet",
    });
  }
  if (lastSeq > 0) await runtime.ask({ do: "harbor.recover" });
  runtime.start();
  // Pools that keep instances ready look after themselves from here on.
  for (const [pool, { plan }] of runtime.rules.pools) if (plan) await runtime.ask({ do: "plan.consider", pool });
  isReady = true;
  log.info({ url: running.url, data: dataFolder, events: lastSeq }, "ready");
  pastCheck.begin(journal, opened, log).catch((error: unknown) => log.error(error, "the past was not looked at"));
  return running;
}

async function startRuntime(
  config: Config,
  opened: OpenedJournal,
  parts: Pick<RuntimeParts, "tokens" | "stamp"> & { readonly log: Logger },
): Promise<HarborRuntime> {
  try {
    const harbor = await recoverHarbor(rulesOf(config), opened);
    const { journal, lastSeq } = opened;
    const snapshots = {
      every: config.journal.snapshotEvery,
      keepEvents: config.journal.keepEvents,
      keepBytes: config.journal.keepBytes,
    };
    return new HarborRuntime({ ...parts, harbor, journal, lastSeq, snapshots, scheduler: eventLoop });
  } catch (error) {
    await opened.journal.close();
    throw new StartError("data-unusable", (error as Error).message);
  }
}

async function listen(api: Api, config: Config): Promise<number> {
  const { host, port } = config.listen;
  try {
    await api.listen({ host, port });
  } catch (error) {
    const { code, message } = error as NodeJS.ErrnoException;
    if (code === "EADDRINUSE") {
      throw new StartError(
        "port-taken",
        `Port ${port} on ${host} is taken; stop what listens there, or choose another with --port.`,
      );
    }
    throw new StartError(
      "port-taken",
      `Cannot listen on ${host}:${port}: ${code ?? message}; choose another with --host and --port.`,
    );
  }
  return (api.server.address() as AddressInfo).port;
}

/** What to connect to when the service listens on every address. */
function reachable(host: string): string {
  if (host === "0.0.0.0") return "127.0.0.1";
  if (host === "::") return "[::1]";
  return host.includes(":") ? `[${host}]` : host;
}

const POLITE_MS = 1_500;
const FORCED_MS = 1_500;

/** For a service that takes its instances with it: signals, waits a moment, then kills. */
async function stopAllInstances(effects: EffectRunner, log: Logger): Promise<void> {
  for (const [signal, patienceMs] of [
    ["terminate", POLITE_MS],
    ["kill", FORCED_MS],
  ] as const) {
    const running = effects.running();
    if (running.length === 0) return;
    log.info({ instances: running.length, signal }, "stopping instances");
    for (const instance of running) effects.driverOf(instance).signal(instance, signal);
    for (const begin = Date.now(); effects.running().length > 0 && Date.now() - begin < patienceMs; ) await wait(25);
  }
}
