import {
  type BoardingPass,
  type LobbyUpdate,
  type OwnUpdate,
  type PlayerArgsTyped,
  type PlayerReply,
  type Problem,
  pauseMs,
  type RoomUpdate,
  type ServiceFrame,
  type Update,
  type Welcome,
  WIRE_VERSION,
} from "@yellow-harbor/protocol";
import { ProblemError } from "../problem-error.ts";
import type { Backoff } from "./backoff.ts";
import { Directory } from "./directory.ts";
import type { Emitter } from "./emitter.ts";
import { FriendsMemory } from "./friends-memory.ts";
import { Heartbeats } from "./heartbeats.ts";
import { beginInLine } from "./in-line.ts";
import { Link, type LinkEnd } from "./link.ts";
import type { PlayerOptions } from "./options.ts";
import { OwnMemory } from "./own-memory.ts";
import type { PlayerEvents } from "./player-client-events.ts";
import { mayRetry } from "./retry.ts";
import { applyUpdate, haveOf, type PlayerState, stateOf } from "./state.ts";

/** How long a service that is starting again is tried for at its own pace. */
const RESTART_MS = 30_000;
const DEFAULT_BACKOFF: Backoff = { firstMs: 200, maxMs: 5_000, attempts: 12 };

/** The life of a player's connection: welcome, update, loss and return. Holds what the player knows. */
export class PlayerSession {
  readonly #options: PlayerOptions;
  readonly #events: Emitter<PlayerEvents>;
  #link: Link | undefined;
  #welcome: Welcome | undefined;
  /** Revision of what has befallen this player alone, as far as it was heard. */
  #heard = 0;
  #state: PlayerState = { lobby: undefined, room: undefined };
  #pass: BoardingPass | undefined;
  readonly own: OwnMemory;
  readonly friends: FriendsMemory;
  #heartbeats: Heartbeats | undefined;
  #directory: Directory | undefined;
  /** Token of one's place in the line, while one waits. */
  #waited: string | undefined;
  #isOver = false;
  #retry: ReturnType<typeof setTimeout> | undefined;
  /** While the service is being started again: how often it is tried, and until when. */
  #restart: { readonly everyMs: number; readonly afterMs: number; readonly untilMs: number } | undefined;
  /** Where the service is now, once it has told us to come back elsewhere. */
  #url: string | undefined;

  constructor(options: PlayerOptions, events: Emitter<PlayerEvents>) {
    this.#options = options;
    this.#events = events;
    this.own = new OwnMemory(events);
    this.friends = new FriendsMemory(events);
  }

  get state(): PlayerState {
    return this.#state;
  }

  get pass(): BoardingPass | undefined {
    return this.#pass;
  }

  get directory(): Directory | undefined {
    return this.#directory;
  }

  get isConnected(): boolean {
    return this.#link?.isOpen ?? false;
  }

  get isOver(): boolean {
    return this.#isOver;
  }

  /** The open link, or a {@link ProblemError} when there is none now. */
  get link(): Link {
    if (this.#link) return this.#link;
    throw ProblemError.of("service-unreachable", "There is no connection now; wait until it is resumed.");
  }

  /** Follows the directory from now on, and again after each resume. */
  async follow(wanted: PlayerArgsTyped<"lobby.follow">): Promise<void> {
    const directory = new Directory(wanted);
    this.#directory = directory;
    await this.#follow(directory, this.link);
  }

  async followAgain(): Promise<void> {
    if (this.#directory) await this.#follow(this.#directory, this.link);
  }

  unfollow(): void {
    this.#directory = undefined;
  }

  /** Follows one's friends from now on, and again after each resume. */
  async followFriends(link = this.link): Promise<void> {
    this.friends.isFollowed = true;
    await link.request("friends.follow", {}, (reply) => {
      this.friends.begin((reply as PlayerReply<"friends.follow">).friends);
    });
  }

  /** The last welcome. */
  get known(): Welcome {
    if (this.#welcome === undefined) throw new Error("not welcomed yet");
    return this.#welcome;
  }

  /** The first hello, from the line of a full harbor too. */
  begin(resume: string | undefined): Promise<void> {
    const { reconnect } = this.#options;
    const backoff = reconnect === false ? undefined : { ...DEFAULT_BACKOFF, ...reconnect };
    return beginInLine(() => this.open(resume), { token: () => this.#waited, backoff });
  }

  /** Connects and says hello, as a newcomer or with the token of an earlier welcome. */
  async open(resume: string | undefined): Promise<void> {
    const { name, build, lobby, device, onWaiting, wire = WIRE_VERSION } = this.#options;
    // Coming back needs no account token: it may have ended long ago.
    const account = resume === undefined || this.#welcome === undefined ? await this.#accountToken() : undefined;
    const hello = {
      frame: "hello",
      wire,
      build,
      ...(resume === undefined ? { ...(name !== undefined && { name }) } : { resume }),
      ...(account !== undefined && { account }),
      ...(device !== undefined && resume === undefined && { device }),
      ...(lobby !== undefined && { lobby }),
      ...(onWaiting && { waits: true, ...(this.#waited !== undefined && { waited: this.#waited }) }),
      ...(resume !== undefined && { ...haveOf(this.#state), ...(this.#welcome && { heard: this.#heard }) }),
    };
    let link: Link | undefined;
    const options = this.#url === undefined ? this.#options : { ...this.#options, url: this.#url };
    link = await Link.open(options, {
      welcome: (welcome) => this.#welcomed(link, welcome),
      waiting: ({ token, ...where }) => {
        this.#waited = token;
        onWaiting?.(where);
      },
      reply: (reply) => this.#takeReply(reply),
      frame: (frame) => this.#hear(frame),
      relayedBytes: ({ room, from, body }) => {
        if (room === this.#state.room?.id) this.#events.emit("relayedBytes", { from, body });
      },
      heard: () => this.#heartbeats?.heard(),
      end: (end) => this.#ended(link, end),
    });
    await link.hello(hello);
  }

  async #accountToken(): Promise<string | undefined> {
    const { account } = this.#options;
    return typeof account === "function" ? account() : account;
  }

  #welcomed(link: Link | undefined, welcome: Welcome): void {
    // It was given up while it was coming back.
    if (this.#isOver) return link?.close();
    this.#waited = undefined;
    this.#link = link;
    this.#welcome = welcome;
    this.#pass = welcome.pass;
    this.#heard = welcome.player.revision;
    this.#heartbeats?.stop();
    this.#heartbeats = new Heartbeats({
      everyMs: welcome.heartbeatEveryMs,
      silenceMs: welcome.silenceMs,
      send: (heartbeat) => link?.send(heartbeat),
      silent: () => link?.reset("the service fell silent"),
    });
    this.own.welcomed(welcome);
    // Otherwise what is held still counts, and the updates since then follow.
    if (!welcome.continues) this.#setState(stateOf(welcome));
    if (this.#directory && link) void this.#follow(this.#directory, link).catch(() => undefined);
    if (this.friends.isFollowed && link) void this.followFriends(link).catch(() => undefined);
    if (welcome.pass) this.#events.emit("pass", welcome.pass);
    for (const missed of welcome.missed ?? []) this.#events.emit("missed", missed);
  }

  #hear(frame: ServiceFrame): void {
    switch (frame.frame) {
      case "relayed": {
        const { room, from, body } = frame;
        if (room === this.#state.room?.id) this.#events.emit("relayed", { from, body });
        return;
      }
      case "signal":
        return this.#events.emit("signal", { from: frame.from, body: frame.body });
      case "directory":
        this.#directory?.apply(frame);
        return this.#directory && this.#events.emit("directory", this.#directory.now);
      case "friends":
        return this.friends.apply(frame);
      case "echo":
        return this.#heartbeats && this.#events.emit("echo", { roundTripMs: this.#heartbeats.echo(frame) });
      case "chat":
        return this.#events.emit("chat", frame);
      case "message":
        return this.#events.emit("message", frame);
      case "refused":
        return this.#events.emit("refused", frame.problem);
      case "notice":
        return this.#events.emit("notice", frame);
      case "update":
        if (frame.scope !== "you") return this.#patch(frame);
        this.#heard = frame.revision ?? this.#heard;
        return this.#hearOwn(frame.event);
    }
  }

  async #follow(directory: Directory, link: Link): Promise<void> {
    const { args } = directory;
    await link.request("lobby.follow", args, (reply) => {
      directory.begin(reply as PlayerReply<"lobby.follow">);
      this.#events.emit("directory", directory.now);
    });
  }

  #hearOwn(update: OwnUpdate): void {
    if (update.kind === "boarding-pass") {
      this.#pass = update.pass;
      return this.#events.emit("pass", update.pass);
    }
    this.own.hear(update);
    if (update.kind === "into-lobby") {
      this.#setState({ lobby: update.lobby, room: undefined });
      void this.followAgain().catch(() => undefined);
      return this.#events.emit("intoLobby", update);
    }
    if (update.kind === "into-room") {
      this.#setState({ lobby: undefined, room: update.room });
      return this.#events.emit("intoRoom", update);
    }
    // A kind that a newer service sends is passed over.
    if (update.kind !== "out-of-room") return;
    this.#setState({ lobby: update.lobby, room: undefined });
    this.#events.emit("outOfRoom", update);
  }

  #patch(update: Exclude<Update, { scope: "you" }>): void {
    const patched = applyUpdate(this.#state, update);
    if (patched.outcome === "stale") return;
    // Never to be expected; a fresh state mends it.
    if (patched.outcome === "gap") return this.#link?.reset();
    this.#setState(patched.state, update.event);
  }

  /** Replies that bring a whole state: of the room joined, of the lobby the player is in again. */
  #takeReply(reply: object): void {
    this.own.parties.replied(reply);
    if ("room" in reply) this.#setState({ lobby: undefined, room: reply.room as PlayerState["room"] });
    if ("lobby" in reply) this.#setState({ lobby: reply.lobby as PlayerState["lobby"], room: undefined });
  }

  #setState(state: PlayerState, update?: LobbyUpdate | RoomUpdate): void {
    this.#state = state;
    this.own.privateEntries.inRoom(state.room?.id);
    // A late joining's pass comes before the state of the room it has joined.
    if (this.#pass && state.room && state.room.run !== this.#pass.run) this.#pass = undefined;
    this.#events.emit("change", { state, ...(update && { update }) });
  }

  #ended(link: Link | undefined, end: LinkEnd): void {
    // A link that was never welcomed tells whoever opened it instead.
    if (link === undefined || link !== this.#link || this.#isOver) return;
    this.#link = undefined;
    this.#heartbeats?.stop();
    const { problem, mayResume } = end;
    if (this.#options.reconnect === false || !mayResume) return this.finish(problem);
    const { retryEveryMs: everyMs, retryAfterMs: afterMs = 0, retryUrl } = problem;
    const untilMs = performance.now() + afterMs + RESTART_MS;
    this.#restart = everyMs === undefined ? undefined : { everyMs, afterMs, untilMs };
    if (retryUrl !== undefined && isAsSafe(this.#options.url, retryUrl)) this.#url = retryUrl;
    this.#tryAgain(1, problem);
  }

  #tryAgain(attempt: number, why: Problem): void {
    const backoff = { ...DEFAULT_BACKOFF, ...(this.#options.reconnect || {}) };
    // Attempts while the service starts again are not counted: that it is not there yet says nothing.
    const isRestart = this.#restart !== undefined && performance.now() < this.#restart.untilMs;
    if (attempt > backoff.attempts && !isRestart) return this.finish(why);
    const inMs = isRestart ? this.#pauseOfRestart() : pauseMs(attempt, backoff, Math.random);
    this.#events.emit("lost", { problem: why, attempt, inMs });
    this.#retry = setTimeout(async () => {
      try {
        await this.open(this.known.resume);
        if (!this.#isOver) this.#events.emit("resumed", this.known);
      } catch (error) {
        if (!(error instanceof ProblemError)) throw error;
        if (!mayRetry(error.problem)) this.finish(error.problem);
        else this.#tryAgain(isRestart ? attempt : attempt + 1, error.problem);
      }
    }, inMs);
  }

  /** The first try waits for the service to be back; all are spread, so that not everybody comes at once. */
  #pauseOfRestart(): number {
    const { everyMs, afterMs, untilMs } = this.#restart ?? { everyMs: 0, afterMs: 0, untilMs: 0 };
    const leftMs = Math.max(0, untilMs - RESTART_MS - performance.now());
    return Math.round(Math.min(afterMs, leftMs) + everyMs * (0.5 + Math.random()));
  }

  /** It is over, by a goodbye or for a reason. */
  finish(problem: Problem | undefined): void {
    if (this.#isOver) return;
    this.#isOver = true;
    clearTimeout(this.#retry);
    this.#heartbeats?.stop();
    this.#link?.close();
    this.#link = undefined;
    this.#events.emit("ended", { problem });
  }
}

/** Whether one may be led there: never from an address with TLS to one without. */
function isAsSafe(from: string, to: string): boolean {
  if (!URL.canParse(to)) return false;
  const isSecure = (url: string) => /^(https|wss):$/.test(new URL(url).protocol);
  return isSecure(to) || !isSecure(from);
}
