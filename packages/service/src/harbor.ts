import { join } from "node:path";
import { problem } from "@yellow-harbor/protocol";
import type { Logger } from "pino";
import type { WatchHub } from "./api/watch-hub.ts";
import type { ConfigInForce } from "./config/in-force.ts";
import { rulesOf } from "./config/rules.ts";
import type { Config } from "./config/schema.ts";
import type { Gateway } from "./gateway/gateway.ts";
import type { KeptHarbor } from "./journal/kept-harbor.ts";
import { codeKeyOf } from "./keys/code-key.ts";
import type { Tokens } from "./keys/tokens.ts";
import { EffectRunner } from "./machines/effects.ts";
import { FleetRunner } from "./machines/fleet.ts";
import { agentDriver, makeDrivers } from "./machines/make-drivers.ts";
import type { Polls } from "./machines/polls.ts";
import { secretsFor } from "./machines/secrets.ts";
import { Matcher } from "./matcher/matcher.ts";
import { type EventObserver, runtimeMeter } from "./metrics/meters.ts";
import type { Metrics } from "./metrics/metrics.ts";
import type { Deliveries } from "./runtime/outbox.ts";
import { recoverHarbor } from "./runtime/recover.ts";
import { HarborRuntime, type RuntimeParts } from "./runtime/runtime.ts";
import { eventLoop } from "./runtime/scheduler.ts";
import { type ServeOptions, StartError } from "./start.ts";
import { tellerFor } from "./webhooks/teller.ts";

interface RuntimeNeeds extends Pick<RuntimeParts, "tokens" | "stamp"> {
  readonly inForce: ConfigInForce;
  readonly observers: readonly EventObserver[];
  readonly log: Logger;
  readonly metrics: Metrics;
  /** Webhooks have something to be told. */
  readonly wake: () => void;
}

/** The runtime of a harbor, from what is kept of it. */
export async function startRuntime(config: Config, kept: KeptHarbor, parts: RuntimeNeeds): Promise<HarborRuntime> {
  try {
    const harbor = await recoverHarbor(rulesOf(config, codeKeyOf(kept.secret)), kept);
    const { eventLog, lastSeq, history } = kept;
    const snapshots = {
      history,
      snapshots: kept.snapshots,
      every: config.journal.snapshotEvery,
      keepEvents: config.journal.keepEvents,
      keepBytes: config.journal.keepBytes,
    };
    const { tokens, stamp, log, metrics, wake, inForce, observers } = parts;
    const webhooks = () => Object.values(inForce.current.webhooks);
    const teller = tellerFor({ harbor: config.harbor, webhooks, wake, log });
    const meter = runtimeMeter(metrics, observers, () => runtime.decided.state);
    const runtime: HarborRuntime = new HarborRuntime({
      tokens,
      stamp,
      log,
      meter,
      teller,
      harbor,
      eventLog,
      lastSeq,
      snapshots,
      scheduler: eventLoop,
    });
    return runtime;
  } catch (error) {
    await kept.close();
    throw new StartError("data-unusable", (error as Error).message);
  }
}

/** Parts of the configuration that no decision looks at. */
const OUTSIDE = new Set(["alerts", "log", "secrets", "webhooks"]);

/** Has a harbor decide by another configuration from now on, whose values at some paths are others. */
export async function changeHarbor(runtime: HarborRuntime, config: Config, paths: readonly string[]) {
  const ofRules = paths.filter((path) => !OUTSIDE.has(path.split(".")[0] ?? ""));
  const changed = await runtime.changeRules(rulesOf(config, runtime.rules.codeKey), ofRules);
  if ("refused" in changed) return changed;
  const isOther = (line: string) =>
    paths.some((path) => path === `builds.${line}` || path.startsWith(`builds.${line}.`));
  for (const [line, spec] of Object.entries(config.builds)) {
    if (isOther(line)) await runtime.ask({ do: "build.configure", line, spec });
  }
  for (const [pool, { plan }] of Object.entries(config.pools))
    if (plan) await runtime.ask({ do: "plan.consider", pool });
  for (const [group, { fleet }] of Object.entries(config.machineGroups))
    if (fleet) await runtime.ask({ do: "fleet.consider", group });
  return changed;
}

interface EffectNeeds {
  readonly options: ServeOptions;
  readonly inForce: ConfigInForce;
  readonly dataFolder: string;
  readonly log: Logger;
  readonly tokens: Tokens;
  readonly runtime: HarborRuntime;
  readonly polls: Polls;
  readonly gateway: Pick<Gateway, "addressOf">;
  /** Where instances find the service. */
  readonly serviceUrl: () => string;
}

/** What carries out a harbor's effects. */
export function effectRunner(needs: EffectNeeds): EffectRunner {
  const { options, inForce, dataFolder, log, tokens, runtime, polls, gateway, serviceUrl } = needs;
  const { config, folder } = options;
  const surroundings = {
    log,
    workingFolder: folder,
    output: config.output,
    folder: join(dataFolder, "instances"),
    serviceUrl,
  };
  const isOn = (machine: string, instance: string) =>
    runtime.decided.state.pools.instances.get(instance)?.machine === machine;
  return new EffectRunner({
    runtime,
    tokens,
    polls,
    log,
    probeWorlds: config.travel.probe,
    addressOf: (player) => gateway.addressOf(player),
    environmentOf: (pool) => inForce.current.pools[pool]?.environment ?? {},
    secretsOf: (spec, environment) => secretsFor(spec, environment, { secrets: inForce.current.secrets, folder }),
    fleet: new FleetRunner({ config: () => inForce.current, tokens, workingFolder: folder, serviceUrl, log }),
    makeDrivers: (events) => makeDrivers(config.machines, { ...surroundings, events }, isOn),
    makeAgentDriver: (machine, events) => agentDriver(machine, { serviceUrl, events }, isOn),
  });
}

interface Listeners {
  readonly gateway: Gateway;
  readonly watchers: WatchHub;
  readonly effects: EffectRunner;
  readonly matcher: Matcher;
  readonly failed: Deliveries["failed"];
}

/** What looks for matches, in a thread of its own. */
export const makeMatcher = (
  runtime: HarborRuntime,
  { metrics, log }: { readonly metrics: Metrics; readonly log: Logger },
): Matcher =>
  new Matcher({
    runtime,
    log,
    looked: (queue, tookMs) => metrics.observe("yh_matcher_seconds", { queue }, tookMs / 1_000),
  });

/** Who carries out what the runtime has to say. */
export function connectRuntime(
  runtime: HarborRuntime,
  { gateway, watchers, effects, matcher, failed }: Listeners,
): void {
  runtime.connect({
    push: (push) => gateway.push(push),
    pass: (player, pass) => gateway.pass(player, pass),
    isFollowed: () => gateway.isFollowed,
    listing: (change) => gateway.listing(change),
    areFriendsFollowed: () => gateway.areFriendsFollowed,
    friends: (change) => gateway.friends(change),
    happened: (happened) => watchers.happened(happened),
    effect: (effect) => {
      if (effect.effect === "look-for-matches") return matcher.carryOut(effect);
      if (effect.effect !== "end-connection") return effects.carryOut(effect);
      gateway.end(effect.player, problem(effect.code, effect.detail));
    },
    failed,
    flush: () => gateway.flush(),
  });
}
