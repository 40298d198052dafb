import type { ConfigApplied, Notice, PlayerId, Problem, RefusalView } from "@yellow-harbor/protocol";
import type {
  FastifyBaseLogger,
  FastifyInstance,
  RawReplyDefaultExpression,
  RawRequestDefaultExpression,
  RawServerDefault,
} from "fastify";
import type { ZodTypeProvider } from "fastify-type-provider-zod";
import type { Alerts } from "../alerts/alerts.ts";
import type { ConfigInForce } from "../config/in-force.ts";
import type { ReadConfig } from "../config/load.ts";
import type { TrustsProxy } from "../front-door/caller.ts";
import type { RelayFigures } from "../gateway/instance-relay.ts";
import type { WaitingLine } from "../gateway/waiting-line.ts";
import type { DrainWish } from "../goodbye.ts";
import type { HarborHistory } from "../journal/harbor-history.ts";
import type { OperatorStore } from "../journal/operator-store.ts";
import type { Audit } from "../keys/audit.ts";
import type { Tokens } from "../keys/tokens.ts";
import type { TwoPlaces } from "../keys/two-places.ts";
import type { MachineDriver } from "../machines/driver.ts";
import type { Polls } from "../machines/polls.ts";
import type { Metrics } from "../metrics/metrics.ts";
import type { HarborRuntime } from "../runtime/runtime.ts";
import type { SeriesKeeper } from "../series/series-keeper.ts";
import type { ServicePhase } from "../start.ts";
import type { Tracing } from "../tracing/tracing.ts";
import type { Webhooks } from "../webhooks/webhooks.ts";
import type { WorkerPool } from "../workers/worker-pool.ts";
import type { OperatorAccess } from "./access.ts";
import type { WatchHub } from "./watch-hub.ts";

/** Fastify with routes typed by their Zod schemas. */
export type Api = FastifyInstance<
  RawServerDefault,
  RawRequestDefaultExpression<RawServerDefault>,
  RawReplyDefaultExpression<RawServerDefault>,
  FastifyBaseLogger,
  ZodTypeProvider
>;

/** What the routes work with. */
export interface ApiParts {
  readonly inForce: ConfigInForce;
  readonly version: string;
  readonly runtime: HarborRuntime;
  readonly history: HarborHistory;
  readonly dataFolder: string;
  readonly tokens: Tokens;
  readonly polls: Polls;
  /** Notices keys of instances and tokens of machines that two use. */
  readonly twoPlaces: TwoPlaces;
  readonly output: MachineDriver["output"];
  /** Folder of the configuration file, which relative paths of builds count from. */
  readonly workingFolder: string;
  readonly access: OperatorAccess;
  /** Writes down what operators do. */
  readonly audit: Audit;
  readonly operators: OperatorStore;
  readonly metrics: Metrics;
  readonly tracing: Pick<Tracing, "http"> | undefined;
  readonly webhooks: Webhooks;
  readonly alerts: Pick<Alerts, "raised">;
  readonly series: Pick<SeriesKeeper, "read">;
  /** Where a player comes from, while it is connected. */
  readonly addressOf: (player: PlayerId) => string | undefined;
  /** Players who are connected from an address or a network. */
  readonly playersFrom: (network: string) => readonly PlayerId[];
  /** Which proxies are believed of whom they bring. */
  readonly trusts: TrustsProxy;
  readonly watchers: WatchHub;
  /** Connections of players that are open. */
  readonly connectionCount: () => number;
  /** Who waits for a place in the full harbor. */
  readonly waitingLine: Pick<WaitingLine, "size" | "oldestSinceMs">;
  /** What passes to instances through the service. */
  readonly relayFigures: () => RelayFigures;
  /** Processes that have sockets of players' clients; undefined where all are in this one. */
  readonly workers: () => ReturnType<WorkerPool["views"]> | undefined;
  /** Says something to players on behalf of an operator; returns to how many. */
  readonly notice: (to: Notice["to"], players: Iterable<PlayerId>, text: string) => number;
  /** What a player was refused lately, the newest first. */
  readonly refusedLately: (player: PlayerId) => RefusalView[];
  readonly startedAtMs: number;
  /** Folder of the built console, when there is one. */
  readonly consoleFolder: string | undefined;
  /** What is wrong with the events of before the newest snapshot, once it is known. */
  readonly journalFault: () => string | undefined;
  /** Reads the configuration again, when the service was started from a file. */
  readonly reload: (() => ReadConfig) | undefined;
  /** Takes from it what can be taken now. */
  readonly applyConfig: () => Promise<ConfigApplied | { readonly refused: Problem }>;
  readonly phase: () => ServicePhase;
  /** Has the service stopped by whoever started it; players are told when and where to come back. */
  readonly drain: (wish: DrainWish) => void;
}
