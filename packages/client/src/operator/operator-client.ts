import {
  type AboutView,
  type BuildList,
  type BuildSpecInput,
  type BuildView,
  type CostsView,
  type InstancePage,
  type InstanceView,
  type JoinExplanation,
  type JournalPage,
  type MachineList,
  type MatchExplanation,
  type MatchList,
  type PlayerPage,
  type PoolList,
  type PoolView,
  Problem,
  type QueueList,
  type QueueMode,
  type QueueSummary,
  type QueuesReloaded,
  type RollOut,
  type RoomExplanation,
  type RoomHistory,
  type RoomPage,
  type RoomView,
  reachCauseOf,
  reachText,
  type StatusView,
  type TicketExplanation,
  type TicketList,
  type TravelExplanation,
  type WatchMessage,
} from "@yellow-harbor/protocol";
import { ProblemError } from "../problem-error.ts";
import { eventsOf } from "./event-stream.ts";

export interface OperatorOptions {
  /** Address of the service, such as `http://127.0.0.1:7420`; empty for the page's own. */
  readonly url: string;
  /** Operator token; not needed on the service's own computer while it listens on loopback. */
  readonly token?: string;
}

type Revised = { revision: number };
type Said = { delivered: number };
type Query = Record<string, string | number | boolean | undefined>;

/** What operators and back ends ask over HTTP. Everything rejects with {@link ProblemError}. */
export class OperatorClient {
  readonly #url: string;
  readonly #token: string | undefined;

  constructor({ url, token }: OperatorOptions) {
    this.#url = url.replace(/\/$/, "");
    this.#token = token;
  }

  /** What a client has to know before it connects. Anybody may ask. */
  about(): Promise<AboutView> {
    return this.#get("/v1/about");
  }

  status(): Promise<StatusView> {
    return this.#get("/v1/status");
  }

  rooms(query: { limit?: number; after?: string; lobby?: string; phase?: string } = {}): Promise<RoomPage> {
    return this.#get("/v1/rooms", query);
  }

  /** One room, by id or code. */
  room(idOrCode: string): Promise<RoomView> {
    return this.#get(`/v1/rooms/${encodeURIComponent(idOrCode)}`);
  }

  explainRoom(idOrCode: string): Promise<RoomExplanation> {
    return this.#get(`/v1/rooms/${encodeURIComponent(idOrCode)}/explain`);
  }

  /** Why a player may or may not join a room. */
  explainJoin(idOrCode: string, player: string): Promise<JoinExplanation> {
    return this.#get(`/v1/rooms/${encodeURIComponent(idOrCode)}/explain-join`, { player });
  }

  /** Whom a room's travel waits for, since when, and what happens next and when. */
  explainTravel(idOrCode: string): Promise<TravelExplanation> {
    return this.#get(`/v1/rooms/${encodeURIComponent(idOrCode)}/explain-travel`);
  }

  /** Gives the travel of a room up: everybody is where they were, ready as they were. */
  abortTravel(idOrCode: string, reason?: string): Promise<Revised> {
    return this.#toRoom(idOrCode, "abort-travel", { reason });
  }

  players(query: { limit?: number; after?: string; name?: string } = {}): Promise<PlayerPage> {
    return this.#get("/v1/players", query);
  }

  queues(): Promise<QueueList> {
    return this.#get("/v1/queues");
  }

  /** Pauses a queue, drains it, or opens it again. Tickets are kept. */
  setQueueMode(queue: string, mode: QueueMode): Promise<QueueSummary> {
    return this.#post(`/v1/queues/${encodeURIComponent(queue)}/mode`, { mode });
  }

  /** Has the service read the queues of its configuration file again. Tickets are kept. */
  reloadQueues(): Promise<QueuesReloaded> {
    return this.#post("/v1/queues/reload", {});
  }

  /** Whether the queue of a playing room is to look for players in the place of those who left. */
  backfillRoom(idOrCode: string, wanted: boolean): Promise<Revised> {
    return this.#toRoom(idOrCode, "backfill", { wanted });
  }

  /** The pools and their plans. */
  pools(): Promise<PoolList> {
    return this.#get("/v1/pools");
  }

  /** How many instances a pool should run, and the numbers that this was made from. */
  explainPool(pool: string): Promise<PoolView> {
    return this.#get(`/v1/pools/${encodeURIComponent(pool)}/plan`);
  }

  /** Pauses the planner of a pool, or lets it go on. */
  setPoolMode(pool: string, mode: PoolView["mode"]): Promise<PoolView> {
    return this.#post(`/v1/pools/${encodeURIComponent(pool)}/mode`, { mode });
  }

  /** Pins a pool to a number of instances, or with null has it planned again. */
  pinPool(pool: string, instances: number | null): Promise<PoolView> {
    return this.#post(`/v1/pools/${encodeURIComponent(pool)}/pin`, { instances });
  }

  /** All versions of all build lines, the newest of each first. */
  builds(): Promise<BuildList> {
    return this.#get("/v1/builds");
  }

  /** Registers a new version of a build line. It takes over step by step, as `rollOut` says or by the presets. */
  addBuild(line: string, spec: BuildSpecInput, rollOut: Partial<RollOut> = {}): Promise<BuildView> {
    return this.#post(`/v1/builds/${encodeURIComponent(line)}`, { spec, rollOut });
  }

  /** Promotes a version at once, or rolls it back. */
  changeRollOut(line: string, version: string, to: "promoted" | "rolled-back", reason?: string): Promise<BuildView> {
    const path = `/v1/builds/${encodeURIComponent(line)}/${encodeURIComponent(version)}/roll-out`;
    return this.#post(path, { to, reason });
  }

  /** The machines that instances run on. */
  machines(): Promise<MachineList> {
    return this.#get("/v1/machines");
  }

  /** What instances have run for, and what it costs. */
  costs(): Promise<CostsView> {
    return this.#get("/v1/costs");
  }

  /** Has an instance take no new room, and stop once its matches are over. */
  drainInstance(instance: string, reason?: string): Promise<InstanceView> {
    return this.#post(`/v1/instances/${encodeURIComponent(instance)}/drain`, { reason });
  }

  /** Has the planner look at a pool now. */
  considerPool(pool: string): Promise<PoolView> {
    return this.#post(`/v1/pools/${encodeURIComponent(pool)}/consider`, {});
  }

  /** Tickets, the longest waiting first. */
  tickets(query: { queue?: string; limit?: number } = {}): Promise<TicketList> {
    return this.#get("/v1/tickets", query);
  }

  /** The matches that are remembered, the newest first. */
  matches(query: { queue?: string; limit?: number } = {}): Promise<MatchList> {
    return this.#get("/v1/matches", query);
  }

  /** Why a ticket, or the one that a player searches with, is still waiting. */
  explainTicket(ticketOrPlayer: string): Promise<TicketExplanation> {
    return this.#get(`/v1/tickets/${encodeURIComponent(ticketOrPlayer)}/explain`);
  }

  /** Why a match was made of these, in which sides, with what quality; also by its room. */
  explainMatch(matchOrRoom: string): Promise<MatchExplanation> {
    return this.#get(`/v1/matches/${encodeURIComponent(matchOrRoom)}/explain`);
  }

  closeRoom(idOrCode: string, reason?: string): Promise<Revised> {
    return this.#toRoom(idOrCode, "close", { reason });
  }

  putOutOfRoom(idOrCode: string, player: string, how: { reason?: string; ban?: boolean } = {}): Promise<Revised> {
    return this.#toRoom(idOrCode, "put-out", { player, ...how });
  }

  /** Keeps a player out of a room, whether it is in it now or not. */
  banFromRoom(idOrCode: string, player: string, reason?: string): Promise<Revised> {
    return this.#toRoom(idOrCode, "ban", { player, reason });
  }

  unbanFromRoom(idOrCode: string, player: string): Promise<Revised> {
    return this.#toRoom(idOrCode, "unban", { player });
  }

  handOverRoom(idOrCode: string, to: string): Promise<Revised> {
    return this.#toRoom(idOrCode, "hand-over", { to });
  }

  /** Sets the result of a room's run, where its kind leaves that to the operator. Scores: higher is better. */
  setResult(idOrCode: string, standings: { player: string; score: number }[], note?: string): Promise<Revised> {
    return this.#toRoom(idOrCode, "result", { standings, note });
  }

  sayToRoom(idOrCode: string, text: string): Promise<Said> {
    return this.#toRoom(idOrCode, "say", { text });
  }

  sayToPlayer(player: string, text: string): Promise<Said> {
    return this.#post(`/v1/players/${encodeURIComponent(player)}/say`, { text });
  }

  /** Says something to everybody, or to all players of a lobby. */
  sayToAll(text: string, lobby?: string): Promise<Said> {
    return this.#post("/v1/players/say", { text, lobby });
  }

  /** Puts a player out of the harbor: its connection ends. */
  putOut(player: string, reason?: string): Promise<object> {
    return this.#post(`/v1/players/${encodeURIComponent(player)}/put-out`, { reason });
  }

  instances(query: { limit?: number; after?: string; state?: string; ended?: boolean } = {}): Promise<InstancePage> {
    return this.#get("/v1/instances", query);
  }

  instance(id: string): Promise<InstanceView> {
    return this.#get(`/v1/instances/${encodeURIComponent(id)}`);
  }

  /** What an instance has printed; with `follow` until it has ended or `signal` is aborted. */
  async *output(
    id: string,
    query: { stream?: string; follow?: boolean; tailBytes?: number; find?: string } = {},
    signal?: AbortSignal,
  ): AsyncGenerator<string> {
    const response = await this.#fetch(`/v1/instances/${encodeURIComponent(id)}/output`, query, signal);
    const decoder = new TextDecoder();
    for await (const chunk of bodyOf(response)) yield decoder.decode(chunk, { stream: true });
  }

  /** A page of the journal: events after a number, by kind, about an id. */
  journal(query: { after?: number; limit?: number; kind?: string; about?: string } = {}): Promise<JournalPage> {
    return this.#get("/v1/journal", query);
  }

  /** A room as it was: right after an event, at a time, or as it was last. Also after it has closed. */
  history(idOrCode: string, query: { seq?: number; atMs?: number; story?: number } = {}): Promise<RoomHistory> {
    return this.#get(`/v1/rooms/${encodeURIComponent(idOrCode)}/history`, query);
  }

  /** A consistent copy of all that the service keeps: the bytes of one SQLite file. */
  async *backup(): AsyncGenerator<Uint8Array> {
    yield* bodyOf(await this.#fetch("/v1/backup", {}));
  }

  /** Everything as it happens: the whole picture first. Ends when the service closes the stream or `signal` is aborted. */
  async *watch(signal?: AbortSignal): AsyncGenerator<WatchMessage> {
    const response = await this.#fetch("/v1/watch", {}, signal);
    for await (const text of eventsOf(bodyOf(response))) yield JSON.parse(text) as WatchMessage;
  }

  async #get<T>(path: string, query: Query = {}): Promise<T> {
    return (await (await this.#fetch(path, query)).json()) as T;
  }

  #toRoom<T>(idOrCode: string, verb: string, body: object): Promise<T> {
    return this.#post(`/v1/rooms/${encodeURIComponent(idOrCode)}/${verb}`, body);
  }

  async #post<T>(path: string, body: object): Promise<T> {
    return (await (await this.#fetch(path, {}, undefined, body)).json()) as T;
  }

  async #fetch(path: string, query: Query, signal?: AbortSignal, body?: object): Promise<Response> {
    const asked = Object.entries(query).flatMap(([name, value]): [string, string][] =>
      value === undefined ? [] : [[name, String(value)]],
    );
    const search = asked.length === 0 ? "" : `?${new URLSearchParams(asked)}`;
    const headers: Record<string, string> = this.#token === undefined ? {} : { authorization: `Bearer ${this.#token}` };
    let response: Response;
    try {
      response = await fetch(`${this.#url}${path}${search}`, {
        headers,
        ...(signal && { signal }),
        ...(body && asPost(body, headers)),
      });
    } catch (error) {
      if (signal?.aborted) throw error;
      // What fetch throws tells nothing; its cause does, on Node.
      const cause = reachCauseOf((error as Error).cause ?? error);
      throw ProblemError.of(
        "service-unreachable",
        `No answer from ${this.#url || "this page's address"}. ${reachText(cause)}`,
      );
    }
    if (response.ok) return response;
    throw await problemOf(response);
  }
}

const asPost = (body: object, headers: Record<string, string>) => ({
  method: "POST",
  headers: { ...headers, "content-type": "application/json" },
  body: JSON.stringify(body),
});

async function problemOf(response: Response): Promise<ProblemError> {
  const told = Problem.safeParse(await response.json().catch(() => undefined));
  if (told.success) return new ProblemError(told.data);
  return ProblemError.of(
    "service-unreachable",
    `Something answers with status ${response.status} that is not this service; is the address right?`,
  );
}

async function* bodyOf(response: Response): AsyncGenerator<Uint8Array> {
  const reader = response.body?.getReader();
  if (reader === undefined) return;
  try {
    for (;;) {
      const { done, value } = await reader.read();
      if (done) return;
      yield value;
    }
  } finally {
    await reader.cancel().catch(() => undefined);
  }
}
