import type { Socket } from "node:net";
import type { ListingChange } from "@yellow-harbor/core";
import {
  type BoardingPass,
  type Heartbeat,
  type Hello,
  type Notice,
  PLAY_PATH,
  type PlayerId,
  type Problem,
  problem,
  type Welcome,
  WIRE_SUBPROTOCOL,
} from "@yellow-harbor/protocol";
import type { Logger } from "pino";
import { type WebSocket, WebSocketServer } from "ws";
import type { AccountTokens } from "../accounts/account-tokens.ts";
import type { Config } from "../config/schema.ts";
import type { Arrival, Door, Opening } from "../front-door/front-door.ts";
import type { Audit } from "../keys/audit.ts";
import type { Tokens } from "../keys/tokens.ts";
import { steadyMs } from "../runtime/clock.ts";
import type { UpdatePush } from "../runtime/outbox.ts";
import type { HarborRuntime } from "../runtime/runtime.ts";
import { whyBusy } from "./admission.ts";
import { Allowances } from "./allowance.ts";
import { sendTo } from "./broadcast.ts";
import { Connection, type ConnectionSource } from "./connection.ts";
import { decode } from "./decode.ts";
import { EphemeralMessages } from "./ephemeral.ts";
import { frameText } from "./framing.ts";
import { type Greeted, greet } from "./greeting.ts";
import { listenersFor } from "./listeners.ts";
import { Requests } from "./requests.ts";
import { UpdateLog } from "./update-log.ts";

// A frame over the limit of the protocol is refused with words; one over this is not even read.
const PAYLOAD_MAX = 262_144;

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
  readonly log: Logger;
}

/** The players' side: accepts WebSockets, turns frames into commands, and speaks what the outbox holds for players. */
export class Gateway implements Door {
  readonly #parts: GatewayParts;
  readonly holdsPlace = true;
  readonly sockets = new WebSocketServer({
    noServer: true,
    perMessageDeflate: false,
    maxPayload: PAYLOAD_MAX,
    handleProtocols: (offered) => (offered.has(WIRE_SUBPROTOCOL) ? WIRE_SUBPROTOCOL : false),
  });
  readonly #connections = new Map<WebSocket, Connection>();
  readonly #byPlayer = new Map<PlayerId, Connection>();
  readonly #gathered = new Set<Connection>();
  readonly #gather = (connection: Connection) => void this.#gathered.add(connection);
  readonly #log = new UpdateLog();
  readonly #connectionOf = (player: PlayerId) => this.#byPlayer.get(player);
  readonly #listeners = listenersFor((socket) => this.#connections.get(socket), {
    message: (connection, bytes, isBinary) => this.#receive(connection, bytes, isBinary),
    error: (connection, error) =>
      this.#parts.log.debug({ err: error, player: connection.player }, "a player's socket failed"),
    close: (connection, socket) => {
      clearTimeout(connection.helloDue);
      this.#connections.delete(socket);
      this.#forget(connection);
    },
  });
  readonly #desk: EphemeralMessages;
  readonly #requests: Requests;
  readonly #heart: NodeJS.Timeout;
  #numbersGiven = 0;
  #isClosing = false;
  #isFlushDue = false;

  constructor(parts: GatewayParts) {
    this.#parts = parts;
    const allowances = new Allowances(parts.players.framesPerSecond);
    this.#desk = new EphemeralMessages(parts.runtime, this.#connectionOf, allowances);
    const { runtime, tokens, ownPort, localWorlds, audit } = parts;
    const desk = this.#desk;
    this.#requests = new Requests({
      runtime,
      tokens,
      ownPort,
      localWorlds,
      audit,
      allowances,
      desk,
      flushSoon: () => this.#flushSoon(),
    });
    this.#heart = setInterval(() => this.#heartbeat(), parts.players.heartbeatEveryMs);
    this.#heart.unref();
  }

  get connectionCount(): number {
    return this.#connections.size;
  }

  opensAt(path: string): boolean {
    return path === PLAY_PATH;
  }

  /** Lets a player's client in when it offers the protocol that is spoken here, or none at all. */
  decide({ request, socket, from, quota }: Arrival): Opening {
    const { origins } = this.#parts.players;
    const { "sec-websocket-protocol": offered, origin } = request.headers;
    if (origin !== undefined && origins.length > 0 && !origins.includes(origin)) {
      const detail = `Games of the page ${origin.slice(0, 200)} are not let in; list it in players.origins.`;
      return { refused: problem("origin-not-allowed", detail) };
    }
    if (offered !== undefined && !offered.split(",").some((name) => name.trim() === WIRE_SUBPROTOCOL)) {
      const detail = `None of the subprotocols ${offered.slice(0, 200)} is spoken here; this service speaks ${WIRE_SUBPROTOCOL}. Update the client.`;
      return { refused: problem("wire-unsupported", detail, { accepted: [WIRE_SUBPROTOCOL] }) };
    }
    return { welcome: (webSocket) => this.#accept(webSocket, { raw: socket as Socket, from, quota }) };
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
    if (push.to.length > 0) sendTo(push.to, frameText(text), this.#connectionOf);
  }

  /** Whether somebody follows a directory: otherwise nobody need work out what changes in it. */
  get isFollowed(): boolean {
    return this.#desk.isFollowed;
  }

  listing(change: ListingChange): void {
    this.#desk.directory.change(change);
  }

  /** Says something to players on behalf of an operator. Returns to how many. */
  notice(to: Notice["to"], players: Iterable<PlayerId>, text: string): number {
    const delivered = sendTo(players, frameText(JSON.stringify({ frame: "notice", to, text })), this.#connectionOf);
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
    for (const connection of this.#gathered) connection.flush();
    this.#gathered.clear();
  }

  /** Closes every connection, told why, and takes new ones. */
  endAll(reason: Problem): void {
    for (const connection of this.#connections.values()) connection.close(reason);
  }

  /** Tells every player why and closes; players keep their places for the grace and may resume. */
  async close(reason: Problem): Promise<void> {
    this.#isClosing = true;
    clearInterval(this.#heart);
    const open = [...this.sockets.clients];
    const closed = Promise.all(
      open.map((socket) => new Promise<void>((resolve) => socket.once("close", () => resolve()))),
    );
    for (const connection of this.#connections.values()) connection.close(reason);
    const patience = setTimeout(() => {
      for (const connection of this.#connections.values()) connection.terminate();
    }, 1000);
    await closed;
    clearTimeout(patience);
    this.sockets.close();
  }

  #accept(socket: WebSocket, source: Omit<ConnectionSource, "socket">): void {
    const { players } = this.#parts;
    source.raw.setNoDelay(true);
    const connection = new Connection(++this.#numbersGiven, { socket, ...source }, players, this.#gather);
    this.#connections.set(socket, connection);
    connection.helloDue = setTimeout(() => {
      connection.close(problem("hello-late", `No hello came within ${players.helloMs / 1000} s of connecting.`));
    }, players.helloMs);
    const { message, pong, error, close } = this.#listeners;
    socket.on("message", message).on("pong", pong).on("error", error).on("close", close);
  }

  #forget(connection: Connection): void {
    const { player } = connection;
    this.#gathered.delete(connection);
    this.#desk.directory.unfollow(connection);
    if (player === undefined) return;
    if (this.#byPlayer.get(player) === connection) this.#byPlayer.delete(player);
    // While the service stops, the harbor keeps players as they are: the next start counts their grace.
    if (!this.#isClosing)
      this.#parts.runtime.submit({ do: "player.lose", player, connection: connection.number }, () => undefined);
  }

  #receive(connection: Connection, bytes: Buffer, isBinary: boolean): void {
    // What was told to close may say on for as long as its client keeps it open, and speaks for nobody any more.
    if (!connection.isOpen) return;
    const now = steadyMs();
    connection.lastSignMs = now;
    connection.lastFrameMs = now;
    if (connection.isSilent && connection.player) {
      connection.isSilent = false;
      this.#parts.runtime.submit({ do: "room.mark-silent", player: connection.player, silent: false }, () => undefined);
    }
    if (!connection.mayDecode(now)) {
      const detail = `More than ${this.#parts.players.framesPerSecond} frames a second; send fewer.`;
      connection.refuse(problem("too-many-frames", detail));
    } else if (isBinary) {
      connection.refuse(problem("frame-not-json", "Binary frames are not taken; send JSON in text frames."));
    } else {
      this.#handle(connection, bytes, now);
    }
    // What was refused on the spot goes out with this turn; what has to be durable first is flushed when it is spoken.
    this.#flushSoon();
  }

  #handle(connection: Connection, bytes: Buffer, now: number): void {
    const decoded = decode(bytes);
    switch (decoded.frame) {
      case "protocolError":
        // Nothing can come of a connection whose hello does not fit, so it is told why at once.
        if (decoded.of === "hello" && !connection.player && !connection.isGreeting)
          return connection.close(decoded.problem);
        return connection.refuse(decoded.problem, decoded.id);
      case "hello":
        return this.#hello(connection, decoded.hello);
      case "heartbeat":
        return this.#echo(connection, decoded.heartbeat);
      case "request":
        return this.#requests.weigh(connection, decoded.request, { bytes: bytes.length, now });
    }
  }

  #echo(connection: Connection, heartbeat: Heartbeat): void {
    const latency = connection.echo(heartbeat, this.#parts.now());
    const { player } = connection;
    if (latency && player) this.#parts.runtime.submit({ do: "player.measure", player, latency }, () => undefined);
  }

  #hello(connection: Connection, hello: Hello): void {
    if (connection.player || connection.isGreeting) {
      return connection.refuse(problem("hello-twice", "A hello was said on this connection already; send requests."));
    }
    const busy = whyBusy(hello.resume === undefined ? "hello" : "resume", this.#parts.runtime.underWay);
    if (busy) return connection.close(busy);
    // Coming back brings nobody new.
    if (hello.resume === undefined && !connection.quota.guests.take(steadyMs())) {
      const detail = "This address has brought as many new players as it may for now; wait a minute.";
      return connection.close(problem("too-many-connections", detail));
    }
    connection.isGreeting = true;
    const { runtime, tokens, accounts, players } = this.#parts;
    const { number, from } = connection;
    void greet(hello, { runtime, tokens, accounts, players, connection: number, from }, (greeted) =>
      this.#welcome(connection, greeted, hello.have),
    );
  }

  #welcome(connection: Connection, greeted: Greeted, have: Hello["have"]): void {
    connection.isGreeting = false;
    if ("refused" in greeted) return connection.close(greeted.refused);
    clearTimeout(connection.helloDue);
    connection.helloDue = undefined;
    const player = greeted.welcome.player.id;
    const former = this.#byPlayer.get(player);
    connection.player = player;
    this.#byPlayer.set(player, connection);
    // Its room was told of the silence; the next frame ends it.
    connection.isSilent = former?.isSilent ?? false;
    former?.close(problem("taken-over", "The player connected again elsewhere; this connection is closed."));
    this.#sayWelcome(connection, greeted.welcome, have);
    for (const request of connection.takeEarly()) this.#requests.carryOut(connection, request);
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
    for (const text of missed) connection.send(frameText(text));
  }

  /** Where a player comes from, or undefined when it is not connected. */
  addressOf(player: PlayerId): string | undefined {
    return this.#byPlayer.get(player)?.from;
  }

  /** Players who are connected from where `isThere` says. */
  playersFrom(isThere: (address: string) => boolean): readonly PlayerId[] {
    return [...this.#byPlayer].flatMap(([player, { from }]) => (isThere(from) ? [player] : []));
  }

  /** All that one turn of the event loop brings goes out in one write for each socket. */
  #flushSoon(): void {
    if (this.#isFlushDue || this.#gathered.size === 0) return;
    this.#isFlushDue = true;
    setImmediate(() => {
      this.#isFlushDue = false;
      this.flush();
    });
  }

  #heartbeat(): void {
    const { silenceMs } = this.#parts.players;
    const now = steadyMs();
    for (const connection of this.#connections.values()) {
      if (connection.isHeld) continue;
      if (now - connection.lastSignMs > silenceMs) connection.cut("connection-silent");
      else connection.ping();
      const { player } = connection;
      const { hasSentHeartbeats, isSilent, lastFrameMs } = connection;
      if (player === undefined || !hasSentHeartbeats || isSilent || now - lastFrameMs <= silenceMs) continue;
      // Its computer answers pings and its game says nothing: a window that is not updated, or a program that hangs.
      connection.isSilent = true;
      this.#parts.runtime.submit({ do: "room.mark-silent", player, silent: true }, () => undefined);
    }
  }
}
