import {
  type BoardingPass,
  type LobbyNews,
  type News,
  type OwnNews,
  type PlayerArgsTyped,
  type PlayerReply,
  type Problem,
  pauseMs,
  problemTable,
  type RoomNews,
  type ServiceFrame,
  type TicketView,
  type Welcome,
  WIRE_VERSION,
} from "@yellow-harbor/protocol";
import { ProblemError } from "../problem-error.ts";
import type { Backoff } from "./backoff.ts";
import { Beats } from "./beats.ts";
import { Directory } from "./directory.ts";
import type { Emitter } from "./emitter.ts";
import { Link, type LinkEnd } from "./link.ts";
import type { PlayerOptions } from "./options.ts";
import { applyNews, haveOf, type Picture, pictureOf } from "./picture.ts";
import type { PlayerEvents } from "./player-client-events.ts";

const DEFAULT_BACKOFF: Backoff = { firstMs: 200, mostMs: 5_000, attempts: 12 };

/** The life of a player's connection: welcome, news, loss and return. Holds what the player knows. */
export class PlayerSession {
  readonly #options: PlayerOptions;
  readonly #events: Emitter<PlayerEvents>;
  #link: Link | undefined;
  #welcome: Welcome | undefined;
  /** Revision of what has befallen this player alone, as far as it was heard. */
  #heard = 0;
  #picture: Picture = { lobby: undefined, room: undefined };
  #pass: BoardingPass | undefined;
  #ticket: TicketView | undefined;
  #beats: Beats | undefined;
  #directory: Directory | undefined;
  #isOver = false;
  #retry: ReturnType<typeof setTimeout> | undefined;

  constructor(options: PlayerOptions, events: Emitter<PlayerEvents>) {
    this.#options = options;
    this.#events = events;
  }

  get picture(): Picture {
    return this.#picture;
  }

  get pass(): BoardingPass | undefined {
    return this.#pass;
  }

  get ticket(): TicketView | undefined {
    return this.#ticket;
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

  unfollow(): void {
    this.#directory = undefined;
  }

  /** The last welcome. */
  get known(): Welcome {
    if (this.#welcome === undefined) throw new Error("not welcomed yet");
    return this.#welcome;
  }

  /** Connects and says hello, as a newcomer or with the token of an earlier welcome. */
  async open(resume: string | undefined): Promise<void> {
    const { name, build, lobby, wire = WIRE_VERSION } = this.#options;
    const hello = {
      frame: "hello",
      wire,
      build,
      ...(resume === undefined ? { name } : { resume }),
      ...(lobby !== undefined && { lobby }),
      ...(resume !== undefined && { ...haveOf(this.#picture), ...(this.#welcome && { heard: this.#heard }) }),
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
    this.#heard = welcome.player.revision;
    this.#beats?.stop();
    this.#beats = new Beats({
      everyMs: welcome.beatEveryMs,
      silenceMs: welcome.silenceMs,
      send: (beat) => link?.send(beat),
      silent: () => link?.reset("the service fell silent"),
    });
    // Otherwise what is held still counts, and the news since then follows.
    this.#ticket = welcome.ticket;
    if (!welcome.continues) this.#setPicture(pictureOf(welcome));
    if (this.#directory && link) void this.#follow(this.#directory, link).catch(() => undefined);
    if (welcome.pass) this.#events.emit("pass", welcome.pass);
    for (const missed of welcome.missed ?? []) this.#events.emit("missed", missed);
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
        if (frame.scope !== "you") return this.#patch(frame);
        this.#heard = frame.revision ?? this.#heard;
        return this.#hearOwn(frame.news);
    }
  }

  async #follow(directory: Directory, link: Link): Promise<void> {
    const { args } = directory;
    await link.request("lobby.follow", args, (reply) => {
      directory.begin(reply as PlayerReply<"lobby.follow">);
      this.#events.emit("directory", directory.now);
    });
  }

  #hearOwn(news: OwnNews): void {
    if (news.kind === "boarding-pass") {
      this.#pass = news.pass;
      return this.#events.emit("pass", news.pass);
    }
    if (news.kind === "ticket-changed") {
      this.#ticket = news.ticket;
      return this.#events.emit("ticket", news.ticket);
    }
    if (news.kind === "ticket-ended") {
      this.#ticket = undefined;
      return this.#events.emit("ticketEnded", news);
    }
    if (news.kind === "into-room") return this.#setPicture({ lobby: undefined, room: news.room });
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
    if (this.#options.reconnect === false || !end.mayResume) return this.finish(end.problem);
    this.#tryAgain(1, end.problem);
  }

  #tryAgain(attempt: number, why: Problem): void {
    const backoff = { ...DEFAULT_BACKOFF, ...(this.#options.reconnect || {}) };
    if (attempt > backoff.attempts) return this.finish(why);
    const inMs = pauseMs(attempt, backoff, Math.random);
    this.#events.emit("lost", { problem: why, attempt, inMs });
    this.#retry = setTimeout(async () => {
      try {
        await this.open(this.known.resume);
        this.#events.emit("resumed", this.known);
      } catch (error) {
        if (!(error instanceof ProblemError)) throw error;
        if (problemTable[error.problem.code].retry !== "later") this.finish(error.problem);
        else this.#tryAgain(attempt + 1, error.problem);
      }
    }, inMs);
  }

  /** It is over, by a goodbye or for a reason. */
  finish(problem: Problem | undefined): void {
    if (this.#isOver) return;
    this.#isOver = true;
    clearTimeout(this.#retry);
    this.#beats?.stop();
    this.#link?.close();
    this.#link = undefined;
    this.#events.emit("ended", { problem });
  }
}
