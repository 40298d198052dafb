import type {
  AboutView,
  AlertList,
  BuildList,
  BuildSpecInput,
  BuildView,
  CostsView,
  InstanceExplanation,
  InstancePage,
  InstanceView,
  JoinExplanation,
  JournalPage,
  MachineList,
  MachineView,
  MatchExplanation,
  MatchList,
  PartyList,
  PartyView,
  PlayerPage,
  PlayerView,
  PoolList,
  PoolView,
  QueueList,
  QueueMode,
  QueueSummary,
  RatingList,
  Revised,
  RollOut,
  RoomExplanation,
  RoomHistory,
  RoomPage,
  RoomResult,
  RoomView,
  Said,
  Series,
  SeriesSpan,
  SetMachineMode,
  SetResult,
  StatusView,
  TicketExplanation,
  TicketList,
  TravelExplanation,
  WarmPool,
  WatchMessage,
} from "@yellow-harbor/protocol";
import { eventsOf } from "./event-stream.ts";
import { PlayerOperationsClient } from "./player-operations-client.ts";

/** What operators and back ends ask over HTTP. Everything rejects with {@link ProblemError}. */
export class OperatorClient extends PlayerOperationsClient {
  /** What a client has to know before it connects. Anybody may ask. */
  about(): Promise<AboutView> {
    return this.http.call("about");
  }

  /** Figures over the last hour, day or month. */
  series(span: SeriesSpan = "hour"): Promise<Series> {
    return this.http.call("series", { query: { span } });
  }

  status(): Promise<StatusView> {
    return this.http.call("status");
  }

  /** What somebody should look at now, the most urgent first. */
  alerts(): Promise<AlertList> {
    return this.http.call("alerts");
  }

  rooms(query: { limit?: number; after?: string; lobby?: string; phase?: string } = {}): Promise<RoomPage> {
    return this.http.call("rooms", { query });
  }

  /** One room, by id or code. */
  room(room: string): Promise<RoomView> {
    return this.http.call("room", { params: { room } });
  }

  /** The result of the last run that had one, with its payload. */
  result(room: string): Promise<RoomResult> {
    return this.http.call("result", { params: { room } });
  }

  explainRoom(room: string): Promise<RoomExplanation> {
    return this.http.call("explainRoom", { params: { room } });
  }

  /** Why a player may or may not join a room. */
  explainJoin(room: string, player: string): Promise<JoinExplanation> {
    return this.http.call("explainJoin", { params: { room }, query: { player } });
  }

  /** Whom a room's travel waits for, since when, and what happens next and when. */
  explainTravel(room: string): Promise<TravelExplanation> {
    return this.http.call("explainTravel", { params: { room } });
  }

  /** Gives the travel of a room up: everybody is where they were, ready as they were. */
  abortTravel(room: string, reason?: string): Promise<Revised> {
    return this.http.call("abortTravel", { params: { room }, body: { reason } });
  }

  players(
    query: {
      limit?: number;
      after?: string;
      name?: string;
      search?: string;
      lobby?: string;
      presence?: "here" | "away";
    } = {},
  ): Promise<PlayerPage> {
    return this.http.call("players", { query });
  }

  parties(query: { limit?: number; lobby?: string } = {}): Promise<PartyList> {
    return this.http.call("parties", { query });
  }

  /** One party, by its id or code, or by the id of a member. */
  party(party: string): Promise<PartyView> {
    return this.http.call("party", { params: { party } });
  }

  /** One player, by id or account. */
  player(player: string): Promise<PlayerView> {
    return this.http.call("player", { params: { player } });
  }

  queues(): Promise<QueueList> {
    return this.http.call("queues");
  }

  /** Pauses a queue, drains it, or opens it again. Tickets are kept. */
  ratings(queue: string, asked: { account?: string; limit?: number } = {}): Promise<RatingList> {
    return this.http.call("ratings", { params: { queue }, query: asked });
  }

  setRating(queue: string, rating: { account: string; rating: number; deviation?: number }): Promise<RatingList> {
    return this.http.call("setRating", { params: { queue }, body: rating });
  }

  beginSeason(queue: string, season: { keep?: number; minDeviation?: number } = {}): Promise<RatingList> {
    return this.http.call("beginSeason", { params: { queue }, body: season });
  }

  setQueueMode(queue: string, mode: QueueMode): Promise<QueueSummary> {
    return this.http.call("setQueueMode", { params: { queue }, body: { mode } });
  }

  /** Whether the queue of a playing room is to look for players in the place of those who left. */
  backfillRoom(room: string, wanted: boolean): Promise<Revised> {
    return this.http.call("backfillRoom", { params: { room }, body: { wanted } });
  }

  /** The pools and their plans. */
  pools(): Promise<PoolList> {
    return this.http.call("pools");
  }

  /** How many instances a pool should run, and the numbers that this was made from. */
  explainPool(pool: string): Promise<PoolView> {
    return this.http.call("explainPool", { params: { pool } });
  }

  /** Pauses the planner of a pool, or lets it go on. */
  setPoolMode(pool: string, mode: PoolView["mode"]): Promise<PoolView> {
    return this.http.call("setPoolMode", { params: { pool }, body: { mode } });
  }

  /** Pins a pool to a number of instances, or with null has it planned again. */
  pinPool(pool: string, instances: number | null): Promise<PoolView> {
    return this.http.call("pinPool", { params: { pool }, body: { instances } });
  }

  /** All versions of all build lines, the newest of each first. */
  builds(): Promise<BuildList> {
    return this.http.call("builds");
  }

  /** Registers a new version of a build line. It takes over step by step, as `rollOut` says or by the defaults. */
  addBuild(line: string, spec: BuildSpecInput, rollOut: Partial<RollOut> = {}): Promise<BuildView> {
    return this.http.call("addBuild", { params: { line }, body: { spec, rollOut } });
  }

  /** Promotes a version at once, or rolls it back. */
  changeRollOut(line: string, version: string, to: "promoted" | "rolled-back", reason?: string): Promise<BuildView> {
    return this.http.call("changeRollOut", { params: { line, version }, body: { to, reason } });
  }

  /** Forgets a machine that had joined a group and has gone for good. */
  removeMachine(machine: string): Promise<MachineList> {
    return this.http.call("removeMachine", { params: { machine } });
  }

  /** Cordons a machine, drains it, or opens it again. */
  setMachineMode(machine: string, mode: SetMachineMode): Promise<MachineView> {
    return this.http.call("setMachineMode", { params: { machine }, body: mode });
  }

  /** Has a pool be larger for a time, now or later. */
  warmPool(pool: string, time: WarmPool): Promise<PoolView> {
    return this.http.call("warmPool", { params: { pool }, body: time });
  }

  /** Calls such a time off. */
  coolPool(pool: string, window: string): Promise<PoolView> {
    return this.http.call("coolPool", { params: { pool, window } });
  }

  /** The machines that instances run on. */
  machines(): Promise<MachineList> {
    return this.http.call("machines");
  }

  /** What instances have run for, and what it costs. */
  costs(): Promise<CostsView> {
    return this.http.call("costs");
  }

  /** Has an instance take no new room, and stop once its matches are over. */
  /** Why an instance is where it is. */
  explainInstance(instance: string): Promise<InstanceExplanation> {
    return this.http.call("explainInstance", { params: { instance } });
  }

  drainInstance(instance: string, reason?: string): Promise<InstanceView> {
    return this.http.call("drainInstance", { params: { instance }, body: { reason } });
  }

  /** Has the planner look at a pool now. */
  considerPool(pool: string): Promise<PoolView> {
    return this.http.call("considerPool", { params: { pool } });
  }

  /** Tickets, the longest waiting first. */
  tickets(query: { queue?: string; limit?: number } = {}): Promise<TicketList> {
    return this.http.call("tickets", { query });
  }

  /** The matches that are remembered, the newest first. */
  matches(query: { queue?: string; limit?: number } = {}): Promise<MatchList> {
    return this.http.call("matches", { query });
  }

  /** Why a ticket, or the one that a player searches with, is still waiting. */
  explainTicket(ticketOrPlayer: string): Promise<TicketExplanation> {
    return this.http.call("explainTicket", { params: { ticket: ticketOrPlayer } });
  }

  /** Why a match was made of these, in which sides, with what quality; also by its room. */
  explainMatch(matchOrRoom: string): Promise<MatchExplanation> {
    return this.http.call("explainMatch", { params: { match: matchOrRoom } });
  }

  closeRoom(room: string, reason?: string): Promise<Revised> {
    return this.http.call("closeRoom", { params: { room }, body: { reason } });
  }

  kickFromRoom(room: string, player: string, how: { reason?: string; ban?: boolean } = {}): Promise<Revised> {
    return this.http.call("kickFromRoom", { params: { room }, body: { player, ...how } });
  }

  /** Keeps a player out of a room, whether it is in it now or not. */
  banFromRoom(room: string, player: string, reason?: string): Promise<Revised> {
    return this.http.call("banFromRoom", { params: { room }, body: { player, reason } });
  }

  unbanFromRoom(room: string, player: string): Promise<Revised> {
    return this.http.call("unbanFromRoom", { params: { room }, body: { player } });
  }

  handOverRoom(room: string, to: string): Promise<Revised> {
    return this.http.call("handOverRoom", { params: { room }, body: { to } });
  }

  /** Sets the result of a room's run, where its kind leaves that to the operator. Scores: higher is better. */
  setResult(room: string, outcome: SetResult): Promise<Revised> {
    return this.http.call("setResult", { params: { room }, body: outcome });
  }

  notifyRoom(room: string, text: string): Promise<Said> {
    return this.http.call("notifyRoom", { params: { room }, body: { text } });
  }

  notifyPlayer(player: string, text: string): Promise<Said> {
    return this.http.call("notifyPlayer", { params: { player }, body: { text } });
  }

  /** Says something to everybody, or to all players of a lobby. */
  notifyAll(text: string, lobby?: string): Promise<Said> {
    return this.http.call("notifyAll", { body: { text, lobby } });
  }

  /** Puts a player out of the harbor: its connection ends. */
  kick(player: string, reason?: string): Promise<object> {
    return this.http.call("kick", { params: { player }, body: { reason } });
  }

  instances(query: { limit?: number; after?: string; state?: string; ended?: boolean } = {}): Promise<InstancePage> {
    return this.http.call("instances", { query });
  }

  instance(id: string): Promise<InstanceView> {
    return this.http.call("instance", { params: { instance: id } });
  }

  /** What an instance has printed; with `follow` until it has ended or `signal` is aborted. */
  async *output(
    id: string,
    query: { stream?: string; follow?: boolean; tailBytes?: number; find?: string } = {},
    signal?: AbortSignal,
  ): AsyncGenerator<string> {
    const answer = await this.http.fetch("output", { params: { instance: id }, query }, signal);
    const decoder = new TextDecoder();
    for await (const chunk of answer.bytes()) yield decoder.decode(chunk, { stream: true });
  }

  /** A page of the journal: events after a number, by kind, about an id. */
  journal(query: { after?: number; limit?: number; kind?: string; about?: string } = {}): Promise<JournalPage> {
    return this.http.call("journal", { query });
  }

  /** A room as it was: right after an event, at a time, or as it was last. Also after it has closed. */
  history(room: string, query: { seq?: number; atMs?: number; story?: number } = {}): Promise<RoomHistory> {
    return this.http.call("history", { params: { room }, query });
  }

  /**
   * A consistent copy of all that the service keeps: the bytes of one SQLite file without the harbor's secret, or with it
   * and sealed with a passphrase of 12 characters or more.
   */
  async *backup(passphrase?: string): AsyncGenerator<Uint8Array> {
    yield* (await this.http.fetch("backup", { body: { passphrase } })).bytes();
  }

  /** Everything as it happens: the whole state first. Ends when the service closes the stream or `signal` is aborted. */
  async *watch(signal?: AbortSignal): AsyncGenerator<WatchMessage> {
    const answer = await this.http.fetch("watch", {}, signal);
    for await (const text of eventsOf(answer.bytes())) yield JSON.parse(text) as WatchMessage;
  }
}
