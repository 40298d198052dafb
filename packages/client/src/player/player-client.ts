import {
  type BoardingPass,
  type LobbyNews,
  type News,
  type OnLeave,
  type OwnNews,
  type PlayerArgsTyped,
  type PlayerAsk,
  type PlayerReply,
  type Problem,
  playerRequests,
  type RoomListing,
  type RoomNews,
  type ServiceFrame,
  type Welcome,
  WIRE_VERSION,
} from "@yellow-harbor/protocol";
import { ProblemError } from "../problem-error.ts";
import { type Backoff, pauseMs } from "./backoff.ts";
import { Beats } from "./beats.ts";
import { Directory } from "./directory.ts";
import { Emitter } from "./emitter.ts";
import { Link, type LinkEnd, type LinkOptions } from "./link.ts";
import { applyNews, haveOf, type Picture, pictureOf } from "./picture.ts";
import type { PlayerEvents } from "./player-client-events.ts";
import { waitFor } from "./waiting.ts";

export interface PlayerOptions extends LinkOptions {
  /** Guest name, 1 to 32 visible characters. */
  readonly name: string;
  /** Build of the game client, such as `tidewrights-0.3`. */
  readonly build: string;
  readonly lobby?: string;
  /** Token of an earlier welcome: takes that player up again. */
  readonly resume?: string;
  /** How to come back after a lost connection; false not to. */
  readonly reconnect?: Partial<Backoff> | false;
  /** For tests: the wire version to claim. */
  readonly wire?: number;
}

const DEFAULT_BACKOFF: Backoff = { firstMs: 200, mostMs: 5_000, attempts: 12 };

/**
 * A player's connection. Keeps the picture of the lobby or room current, asks, and comes back by itself after a lost
 * connection. Requests reject with {@link ProblemError}.
 */
export class PlayerClient {
  readonly #options: PlayerOptions;
  readonly #events = new Emitter<PlayerEvents>();
  #link: Link | undefined;
  #welcome: Welcome | undefined;
  #picture: Picture = { lobby: undefined, room: undefined };
  #pass: BoardingPass | undefined;
  #beats: Beats | undefined;
  #directory: Directory | undefined;
  #isOver = false;
  #retry: ReturnType<typeof setTimeout> | undefined;

  private constructor(options: PlayerOptions) {
    this.#options = options;
  }

  /** Connects and says hello. Rejects with {@link ProblemError} when the service refuses or does not answer. */
  static async connect(options: PlayerOptions): Promise<PlayerClient> {
    const client = new PlayerClient(options);
    await client.#open(options.resume);
    return client;
  }

  get id(): string {
    return this.#known.player.id;
  }

  get name(): string {
    return this.#known.player.name;
  }

  /** Token for {@link PlayerOptions.resume}. Whoever has it is this player: keep it like a password. */
  get resumeToken(): string {
    return this.#known.resume;
  }

  get picture(): Picture {
    return this.#picture;
  }

  /** The pass for the run under way, if there is one. It works once. */
  get pass(): BoardingPass | undefined {
    return this.#pass;
  }

  get isConnected(): boolean {
    return this.#link?.isOpen ?? false;
  }

  on<K extends keyof PlayerEvents>(kind: K, listener: (event: PlayerEvents[K]) => void): () => void {
    return this.#events.on(kind, listener);
  }

  /** Asks the service. Rejects with {@link ProblemError} when refused, or when the connection is lost before the answer. */
  async ask<A extends PlayerAsk>(ask: A, args: PlayerArgsTyped<A>): Promise<PlayerReply<A>> {
    const link = this.#link;
    if (link === undefined)
      throw ProblemError.of("service-unreachable", "There is no connection now; wait until it is resumed.");
    const reply = await link.request(ask, args);
    return (this.#options.strict ? playerRequests[ask].reply.parse(reply) : reply) as PlayerReply<A>;
  }

  openRoom(args: PlayerArgsTyped<"room.open"> = {}): Promise<PlayerReply<"room.open">> {
    return this.ask("room.open", args);
  }

  joinRoom(args: PlayerArgsTyped<"room.join">): Promise<PlayerReply<"room.join">> {
    return this.ask("room.join", args);
  }

  /** Joins the listed room of that name, or opens it. */
  enterRoom(args: PlayerArgsTyped<"room.enter">): Promise<PlayerReply<"room.enter">> {
    return this.ask("room.enter", args);
  }

  leaveRoom(): Promise<PlayerReply<"room.leave">> {
    return this.ask("room.leave", {});
  }

  /** A page of the lobby's directory, filtered and sorted. */
  listRooms(wanted: PlayerArgsTyped<"lobby.rooms"> = {}): Promise<PlayerReply<"lobby.rooms">> {
    return this.ask("lobby.rooms", wanted);
  }

  /** Follows the lobby's directory: `directory` events tell what it is, now and after each change, also after a resume. */
  async followRooms(wanted: PlayerArgsTyped<"lobby.follow"> = {}): Promise<void> {
    const directory = new Directory(wanted);
    this.#directory = directory;
    await this.#follow(directory);
  }

  /** The directory that is followed, as it is now. */
  get directory(): { readonly rooms: readonly RoomListing[]; readonly total: number } | undefined {
    return this.#directory?.now;
  }

  async unfollowRooms(): Promise<void> {
    this.#directory = undefined;
    await this.ask("lobby.unfollow", {});
  }

  /** Says something to all who stand in the lobby, where that is allowed. */
  say(text: string): Promise<PlayerReply<"lobby.say">> {
    return this.ask("lobby.say", { text });
  }

  listLevels(): Promise<PlayerReply<"level.list">> {
    return this.ask("level.list", {});
  }

  pickLevel(level: string): Promise<PlayerReply<"room.pick-level">> {
    return this.ask("room.pick-level", { level });
  }

  /** Joins the best open room of the lobby, else opens one. */
  seekRoom(args: PlayerArgsTyped<"room.seek"> = {}): Promise<PlayerReply<"room.seek">> {
    return this.ask("room.seek", args);
  }

  changeRoom(change: PlayerArgsTyped<"room.change">): Promise<PlayerReply<"room.change">> {
    return this.ask("room.change", change);
  }

  handOver(to: string): Promise<PlayerReply<"room.hand-over">> {
    return this.ask("room.hand-over", { to });
  }

  /** Puts a member out of the room; with `ban` it cannot come back in. */
  putOut(player: string, how: { reason?: string; ban?: boolean } = {}): Promise<PlayerReply<"room.put-out">> {
    return this.ask("room.put-out", { player, ...how });
  }

  /** Writes an entry of the room's board; with `ifRevision` only if it is still that one, 0 for one that must be new. */
  write(
    key: string,
    value: unknown,
    how: { onLeave?: OnLeave; ifRevision?: number } = {},
  ): Promise<PlayerReply<"room.write">> {
    return this.ask("room.write", { key, value, ...how });
  }

  erase(key: string, how: { ifRevision?: number } = {}): Promise<PlayerReply<"room.erase">> {
    return this.ask("room.erase", { key, ...how });
  }

  /** The value of an entry of the room's board as it is now, or undefined. */
  boardValue(key: string): unknown {
    const board = this.#picture.room?.board;
    return board && Object.hasOwn(board, key) ? board[key]?.box[0] : undefined;
  }

  /** Passes a message to the other members, to all, to one, or to a side. It is not kept: what must be known later is no message. */
  relay(
    body: unknown,
    to: "all" | "others" | (string & {}) | { side: string } = "others",
  ): Promise<PlayerReply<"room.relay">> {
    return this.ask("room.relay", { to, body });
  }

  setReady(ready: boolean): Promise<PlayerReply<"room.ready">> {
    return this.ask("room.ready", { ready });
  }

  start(): Promise<PlayerReply<"room.start">> {
    return this.ask("room.start", {});
  }

  stopCount(): Promise<PlayerReply<"room.stop-count">> {
    return this.ask("room.stop-count", {});
  }

  /** Says goodbye for good and waits until the service has closed the connection. */
  async leave(): Promise<void> {
    if (this.#isOver) return;
    await this.ask("player.leave", {});
    this.#finish(undefined);
  }

  /** Drops the connection without a goodbye: the service keeps the place for the grace. */
  drop(): void {
    this.#finish(undefined);
  }

  /** Resolves with the first picture for which `holds` is true, now or later. Rejects after `withinMs`, or when it is over. */
  until(holds: (picture: Picture) => boolean, withinMs = 30_000): Promise<Picture> {
    if (holds(this.#picture)) return Promise.resolve(this.#picture);
    return waitFor(this, withinMs, (resolve) => this.on("change", ({ picture }) => holds(picture) && resolve(picture)));
  }

  /** Resolves with the pass that may be used now, or with the next one. */
  nextPass(withinMs = 60_000): Promise<BoardingPass> {
    if (this.#pass) return Promise.resolve(this.#pass);
    return waitFor(this, withinMs, (resolve) => this.on("pass", resolve));
  }

  get #known(): Welcome {
    if (this.#welcome === undefined) throw new Error("not welcomed yet");
    return this.#welcome;
  }

  async #open(resume: string | undefined): Promise<void> {
    const { name, build, lobby, wire = WIRE_VERSION } = this.#options;
    const hello = {
      ...{ frame: "hello", wire, build },
      ...(resume === undefined ? { name } : { resume }),
      ...(lobby !== undefined && { lobby }),
      ...(resume !== undefined && haveOf(this.#picture)),
    };
    let link: Link | undefined;
    link = await Link.open(this.#options, {
      welcome: (welcome) => this.#welcomed(link, welcome),
      reply: (reply) => this.#takeReply(reply),
      frame: (frame) => this.#hear(frame),
      heard: () => this.#beats?.heard(),
      end: (end) => this.#ended(link, end),
    });
    await link.hello(hello);
  }

  #welcomed(link: Link | undefined, welcome: Welcome): void {
    this.#link = link;
    this.#welcome = welcome;
    this.#pass = welcome.pass;
    this.#beats?.stop();
    this.#beats = new Beats({
      ...{ everyMs: welcome.beatEveryMs, silenceMs: welcome.silenceMs },
      send: (beat) => link?.send(beat),
      silent: () => link?.reset("the service fell silent"),
    });
    // Otherwise what is held still counts, and the news since then follows.
    if (!welcome.continues) this.#setPicture(pictureOf(welcome));
    if (this.#directory) void this.#follow(this.#directory).catch(() => undefined);
    if (welcome.pass) this.#events.emit("pass", welcome.pass);
  }

  #hear(frame: ServiceFrame): void {
    switch (frame.frame) {
      case "relayed": {
        const { room, from, body } = frame;
        if (room === this.#picture.room?.id) this.#events.emit("relayed", { from, body });
        return;
      }
      case "directory":
        this.#directory?.apply(frame);
        return this.#directory && this.#events.emit("directory", this.#directory.now);
      case "echo":
        return this.#beats && this.#events.emit("echo", { roundTripMs: this.#beats.echo(frame) });
      case "talk":
        return this.#events.emit("talk", frame);
      case "notice":
        return this.#events.emit("notice", frame);
      case "news":
        return frame.scope === "you" ? this.#hearOwn(frame.news) : this.#patch(frame);
    }
  }

  async #follow(directory: Directory): Promise<void> {
    const { args } = directory;
    await this.#link?.request("lobby.follow", args, (reply) => {
      directory.begin(reply as PlayerReply<"lobby.follow">);
      this.#events.emit("directory", directory.now);
    });
  }

  #hearOwn(news: OwnNews): void {
    if (news.kind === "boarding-pass") {
      this.#pass = news.pass;
      return this.#events.emit("pass", news.pass);
    }
    this.#setPicture({ lobby: news.lobby, room: undefined });
    this.#events.emit("outOfRoom", news);
  }

  #patch(news: Exclude<News, { scope: "you" }>): void {
    const patched = applyNews(this.#picture, news);
    if (patched.outcome === "stale") return;
    // Never to be expected; a fresh picture mends it.
    if (patched.outcome === "gap") return this.#link?.reset();
    this.#setPicture(patched.picture, news.news);
  }

  /** Replies that bring a whole picture: of the room joined, of the lobby stood in again. */
  #takeReply(reply: object): void {
    if ("room" in reply) this.#setPicture({ lobby: undefined, room: reply.room as Picture["room"] });
    if ("lobby" in reply) this.#setPicture({ lobby: reply.lobby as Picture["lobby"], room: undefined });
  }

  #setPicture(picture: Picture, news?: LobbyNews | RoomNews): void {
    this.#picture = picture;
    // A late comer's pass comes before the picture of the room it has joined.
    if (this.#pass && picture.room && picture.room.run !== this.#pass.run) this.#pass = undefined;
    this.#events.emit("change", { picture, ...(news && { news }) });
  }

  #ended(link: Link | undefined, end: LinkEnd): void {
    // A link that was never welcomed tells whoever opened it instead.
    if (link === undefined || link !== this.#link || this.#isOver) return;
    this.#link = undefined;
    this.#beats?.stop();
    if (this.#options.reconnect === false || !end.mayResume) return this.#finish(end.problem);
    this.#tryAgain(1, end.problem);
  }

  #tryAgain(attempt: number, why: Problem): void {
    const backoff = { ...DEFAULT_BACKOFF, ...(this.#options.reconnect || {}) };
    if (attempt > backoff.attempts) return this.#finish(why);
    const inMs = pauseMs(attempt, backoff, Math.random);
    this.#events.emit("lost", { problem: why, attempt, inMs });
    this.#retry = setTimeout(async () => {
      try {
        await this.#open(this.resumeToken);
        this.#events.emit("resumed", this.#known);
      } catch (error) {
        if (!(error instanceof ProblemError)) throw error;
        const isFinal = error.problem.status < 500 && error.code !== "hello-late";
        if (isFinal) this.#finish(error.problem);
        else this.#tryAgain(attempt + 1, error.problem);
      }
    }, inMs);
  }

  #finish(problem: Problem | undefined): void {
    if (this.#isOver) return;
    this.#isOver = true;
    clearTimeout(this.#retry);
    this.#beats?.stop();
    this.#link?.close();
    this.#link = undefined;
    this.#events.emit("ended", { problem });
  }
}
