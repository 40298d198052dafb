import type { FriendsChange, ListingChange } from "@yellow-harbor/core";
import {
  type BoardingPass,
  type Hello,
  type Notice,
  type PlayerId,
  type Problem,
  problem,
  type Welcome,
} from "@yellow-harbor/protocol";
import type { AccountTokens } from "../accounts/account-tokens.ts";
import type { Config } from "../config/schema.ts";
import type { Audit } from "../keys/audit.ts";
import type { Tokens } from "../keys/tokens.ts";
import { steadyMs } from "../runtime/clock.ts";
import type { UpdatePush } from "../runtime/outbox.ts";
import type { HarborRuntime } from "../runtime/runtime.ts";
import type { Tracing } from "../tracing/tracing.ts";
import { Allowances } from "./allowance.ts";
import { Arrivals } from "./arrivals.ts";
import { sendTo } from "./broadcast.ts";
import type { ClientChannel, ClientEvents } from "./client-channel.ts";
import { Connection, type ConnectionSource } from "./connection.ts";
import { EphemeralMessages } from "./ephemeral.ts";
import { Frame } from "./framing.ts";
import type { Greeted } from "./greeting.ts";
import type { GatewayMeter } from "./meter.ts";
import { Passwords } from "./passwords.ts";
import { RefusedLately } from "./refused-lately.ts";
import { Requests } from "./requests.ts";
import { TextDesk } from "./text-desk.ts";
import type { TextFilter } from "./text-filter.ts";
import { UpdateLog } from "./update-log.ts";

export interface GatewayParts {
  readonly runtime: HarborRuntime;
  readonly tokens: Tokens;
  readonly accounts: Pick<AccountTokens, "check">;
  readonly players: Config["players"];
  /** The harbor's time. */
  readonly now: () => number;
  /** The port that the service itself listens on. */
  readonly ownPort: () => number;
  readonly localWorlds: Config["travel"]["localWorlds"];
  /** Where what moderators do is written down. */
  readonly audit: Pick<Audit, "add">;
  readonly meter: GatewayMeter;
  /** Whom texts are shown before others see them. */
  readonly textFilter?: TextFilter | undefined;
  readonly tracing?: Pick<Tracing, "request"> | undefined;
}

/** Who has sockets of players' clients. */
export interface SocketHolder {
  /** Writes what has gathered. */
  flush(): void;
  /** The same, with the end of this turn of the event loop. */
  flushSoon(): void;
  /** Resolves once none is open any more. */
  close(): Promise<void>;
}

/**
 * The players' side of a harbor: turns what is heard of their clients into commands, and speaks what the outbox holds for
 * players. Where a client's socket is, here or in another process, it does not know.
 */
export class Gateway {
  readonly #parts: GatewayParts;
  readonly #connections = new Map<number, Connection>();
  readonly #byPlayer = new Map<PlayerId, Connection>();
  readonly #log = new UpdateLog();
  readonly #connectionOf = (player: PlayerId) => this.#byPlayer.get(player);
  readonly #desk: EphemeralMessages;
  readonly #requests: Requests;
  readonly arrivals: Arrivals;
  readonly refused = new RefusedLately();
  readonly #holders: SocketHolder[] = [];
  #numbersGiven = 0;
  #isClosing = false;

  /** What is heard of clients comes in here. */
  readonly events: ClientEvents = {
    hello: (number, hello) => this.#of(number, (connection) => this.arrivals.hello(connection, hello)),
    request: (number, request, bytes) =>
      this.#of(number, (connection) => this.#requests.weigh(connection, request, { bytes, now: steadyMs() })),
    relayed: (number, message) =>
      this.#of(number, (connection) => this.#requests.relayBytes(connection, message, steadyMs())),
    measured: (number, latency) =>
      this.#of(number, ({ player }) => {
        if (player) this.#parts.runtime.submit({ do: "player.measure", player, latency }, () => undefined);
      }),
    refused: (code) => this.#parts.meter.refused(code),
    silent: (number, silent) => this.#of(number, (connection) => this.#markSilent(connection, silent)),
    closed: (number) =>
      this.#of(number, (connection) => {
        this.#connections.delete(number);
        this.#forget(connection);
      }),
  };

  constructor(parts: GatewayParts) {
    this.#parts = parts;
    const allowances = new Allowances(parts.players.framesPerSecond);
    const { runtime, tokens, ownPort, localWorlds, audit, meter, tracing } = parts;
    const flushSoon = () => this.#flushSoon();
    const texts = new TextDesk(parts.textFilter, flushSoon);
    const desk = new EphemeralMessages(parts.runtime, this.#connectionOf, { allowances, texts });
    this.#desk = desk;
    this.arrivals = new Arrivals({
      ...parts,
      waitingLine: parts.players.waitingLine,
      greeted: (connection, greeted, have) => this.#welcome(connection, greeted, have),
      flushSoon,
    });
    this.#requests = new Requests({
      runtime,
      tokens,
      ownPort,
      localWorlds,
      audit,
      meter,
      refused: this.refused,
      tracing,
      allowances,
      desk,
      texts,
      passwords: new Passwords(tokens),
      flushSoon,
    });
  }

  /** Has sockets of players' clients, from now on. */
  add(holder: SocketHolder): void {
    this.#holders.push(holder);
  }

  /** A client has connected. `channelOf` makes the way to it, by the number of its connection. */
  connected(source: ConnectionSource, channelOf: (number: number) => ClientChannel): void {
    this.#numbersGiven += 1;
    const number = this.#numbersGiven;
    this.#connections.set(number, new Connection(number, channelOf(number), source, this.#parts.meter));
  }

  get connectionCount(): number {
    return this.#connections.size;
  }

  /** Speaks one update to all who are to hear it: encoded once. */
  push(push: UpdatePush): void {
    if (push.scope === "you") {
      const { to, scope, revision, update } = push;
      return this.#byPlayer.get(to)?.say({ frame: "update", scope, revision, event: update });
    }
    const { scope, id, revision, update, patch } = push;
    const text = JSON.stringify({ frame: "update", scope, id, revision, event: update, patch });
    this.#log.add(scope, id, revision, text, steadyMs());
    if (push.to.length > 0) sendTo(push.to, new Frame(text), this.#connectionOf);
  }

  /** Whether somebody follows a directory: otherwise nobody need work out what changes in it. */
  get isFollowed(): boolean {
    return this.#desk.isFollowed;
  }

  /** Whether somebody follows its friends: likewise. */
  get areFriendsFollowed(): boolean {
    return this.#desk.areFriendsFollowed;
  }

  friends(change: FriendsChange): void {
    this.#desk.friends.change(change);
  }

  listing(change: ListingChange): void {
    this.#desk.directory.change(change);
  }

  /** Says something to players on behalf of an operator. Returns to how many. */
  notice(to: Notice["to"], players: Iterable<PlayerId>, text: string): number {
    const delivered = sendTo(players, new Frame(JSON.stringify({ frame: "notice", to, text })), this.#connectionOf);
    this.#flushSoon();
    return delivered;
  }

  /** Ends a player's connection, told why. */
  end(player: PlayerId, reason: Problem): void {
    this.#byPlayer.get(player)?.close(reason);
  }

  pass(player: PlayerId, pass: BoardingPass): void {
    this.#byPlayer.get(player)?.say({ frame: "update", scope: "you", event: { kind: "boarding-pass", pass } });
  }

  /** Writes what has gathered, one write for each socket. */
  flush(): void {
    this.#desk.directory.flush();
    this.#desk.friends.flush();
    this.arrivals.line.advance();
    for (const holder of this.#holders) holder.flush();
  }

  /** Closes every connection, told why, and takes new ones. */
  endAll(reason: Problem): void {
    for (const connection of this.#connections.values()) connection.close(reason);
    this.#flushSoon();
  }

  /** Tells every player why and closes; players keep their places for the grace and may resume. */
  async close(reason: Problem): Promise<void> {
    this.#isClosing = true;
    this.#parts.textFilter?.stop();
    this.arrivals.line.close();
    this.endAll(reason);
    await Promise.all(this.#holders.map((holder) => holder.close()));
  }

  #of(number: number, act: (connection: Connection) => void): void {
    const connection = this.#connections.get(number);
    if (connection) act(connection);
  }

  #flushSoon(): void {
    for (const holder of this.#holders) holder.flushSoon();
  }

  #markSilent(connection: Connection, silent: boolean): void {
    const { player } = connection;
    connection.isSilent = silent;
    if (player) this.#parts.runtime.submit({ do: "room.mark-silent", player, silent }, () => undefined);
  }

  #forget(connection: Connection): void {
    const { player } = connection;
    this.#desk.directory.unfollow(connection);
    this.arrivals.line.leave(connection);
    if (player === undefined) return;
    this.#desk.friends.unfollow(player, connection);
    if (this.#byPlayer.get(player) === connection) this.#byPlayer.delete(player);
    // While the service stops, the harbor keeps players as they are: the next start counts their grace.
    if (!this.#isClosing)
      this.#parts.runtime.submit({ do: "player.lose", player, connection: connection.number }, () => undefined);
  }

  #welcome(connection: Connection, greeted: Greeted, have: Hello["have"]): void {
    connection.isGreeting = false;
    if ("refused" in greeted) {
      connection.close(greeted.refused);
      // It may have been refused before the harbor was asked, whose turn would have sent it.
      return this.#flushSoon();
    }
    const player = greeted.welcome.player.id;
    const former = this.#byPlayer.get(player);
    connection.player = player;
    this.#byPlayer.set(player, connection);
    // Its room was told of the silence, which the hello has ended.
    if (former?.isSilent) this.#markSilent(connection, false);
    former?.close(problem("taken-over", "The player connected again elsewhere; this connection is closed."));
    this.#sayWelcome(connection, greeted.welcome, have);
    for (const request of connection.takeEarly()) this.#requests.carryOut(connection, request, steadyMs());
    // It may have closed while the hello was being decided.
    if (!connection.isOpen) this.#forget(connection);
  }

  /** Who still holds the state it had is sent the updates since, when all of them are there, else the state anew. */
  #sayWelcome(connection: Connection, welcome: Welcome, have: Hello["have"]): void {
    const { lobby, room, ...rest } = welcome;
    const scope = room ? "room" : "lobby";
    const state = room ?? lobby;
    const isSame = welcome.resumed && have !== undefined && have.scope === scope && have.id === state?.id;
    const missed = isSame ? this.#log.between(scope, have.id, have.revision, state?.revision ?? 0) : undefined;
    if (missed === undefined) return connection.say(welcome);
    connection.say({ ...rest, continues: true });
    for (const text of missed) connection.send(new Frame(text));
  }

  /** Where a player comes from, or undefined when it is not connected. */
  addressOf(player: PlayerId): string | undefined {
    return this.#byPlayer.get(player)?.from;
  }

  /** Players who are connected from where `isThere` says. */
  playersFrom(isThere: (address: string) => boolean): readonly PlayerId[] {
    return [...this.#byPlayer].flatMap(([player, { from }]) => (isThere(from) ? [player] : []));
  }
}
