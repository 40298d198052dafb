import type { IncomingMessage, Server } from "node:http";
import type { Socket } from "node:net";
import type { Duplex } from "node:stream";
import { type Problem, type ProblemCode, problem } from "@yellow-harbor/protocol";
import { networkOf } from "@yellow-harbor/reach";
import type { Logger } from "pino";
import type { WebSocket, WebSocketServer } from "ws";
import { steadyMs } from "../runtime/clock.ts";
import type { AddressGate, AddressQuota } from "./address-gate.ts";
import { callerOf, type TrustsProxy } from "./caller.ts";
import { refuseBadHandshakes, refuseSocket } from "./refuse-socket.ts";
import { pathOf } from "./target.ts";

/** Somebody who asks for a WebSocket. */
export interface Arrival {
  readonly request: IncomingMessage;
  readonly path: string;
  /** The address it comes from, past the proxies that are believed. */
  readonly from: string;
  readonly quota: AddressQuota;
  readonly socket: Duplex;
}

/**
 * What a door decides: a refusal, what is done with the WebSocket once it is open, or who else answers the handshake. Whoever
 * takes the socket away ends what is left of it here once it is closed.
 */
export type Opening =
  | { readonly refused: Problem }
  | { readonly welcome: (socket: WebSocket) => void }
  | { readonly handOver: (head: Buffer) => void };

/** One of the ways in. It says what belongs to it and decides; the front door does everything else. */
export interface Door {
  readonly sockets: WebSocketServer;
  /** Whether those who are let in count among the open connections of their address for as long as they stay. */
  readonly holdsPlace: boolean;
  readonly opensAt: (path: string) => boolean;
  readonly decide: (arrival: Arrival) => Opening | Promise<Opening>;
}

export interface FrontDoorParts {
  readonly gate: AddressGate;
  readonly trusts: TrustsProxy;
  readonly doors: readonly Door[];
  /** Most sockets of one address. */
  readonly sockets: number;
  readonly log: Pick<Logger, "error">;
  /** Hears of each that was not let in. */
  readonly refused: (code: ProblemCode) => void;
}

/** Longest that a door may take to decide. */
const DECIDE_MS = 10_000;

/**
 * Takes every upgrade of the listener. Each is parsed once, counted against its address, and never holds a socket
 * without a deadline; nothing that is sent can make it throw.
 */
export class FrontDoor {
  readonly #parts: FrontDoorParts;
  /** Sockets that are open, by address or network. */
  readonly #open = new Map<string, number>();
  #isClosed = false;

  constructor(parts: FrontDoorParts) {
    this.#parts = parts;
    for (const { sockets } of parts.doors) refuseBadHandshakes(sockets);
  }

  attach(server: Server): void {
    server.on("connection", (socket) => this.#count(socket));
    server.on("upgrade", (request, socket, head) => this.#take(request, socket, head));
    // Nobody tunnels through here; without a listener Node would drop the connection without a word.
    server.on("connect", (_request, socket) => {
      socket.on("error", destroy);
      refuseSocket(socket, problem("method-unknown", "CONNECT is not spoken here; send plain requests."));
    });
  }

  /** One address cannot take all sockets: what is too much is closed without a word, which would cost more. */
  #count(socket: Socket): void {
    const { trusts, sockets } = this.#parts;
    const address = networkOf(socket.remoteAddress ?? "");
    if (trusts(socket.remoteAddress ?? "")) return;
    const open = (this.#open.get(address) ?? 0) + 1;
    if (open > sockets) return void socket.destroy();
    this.#open.set(address, open);
    socket.once("close", () => {
      const left = (this.#open.get(address) ?? 1) - 1;
      if (left === 0) this.#open.delete(address);
      else this.#open.set(address, left);
    });
  }

  /** From now on everybody who comes is told that the service is stopping. */
  close(): void {
    this.#isClosed = true;
  }

  #take(request: IncomingMessage, socket: Duplex, head: Buffer): void {
    socket.on("error", destroy);
    const arrival = this.#arrive(request, socket);
    if ("refused" in arrival) return this.#refuse(socket, arrival.refused);
    const { quota } = arrival;
    quota.open += 1;
    let isCounted = true;
    const letGo = () => {
      if (isCounted) quota.open -= 1;
      isCounted = false;
    };
    socket.once("close", letGo);
    const { door } = arrival;
    if ("refused" in door) return this.#refuse(socket, door.refused);
    const late = setTimeout(() => socket.destroy(), DECIDE_MS);
    const open = (opening: Opening) => {
      clearTimeout(late);
      if (socket.destroyed) return;
      if ("refused" in opening) return this.#refuse(socket, opening.refused);
      if ("handOver" in opening) return opening.handOver(head);
      socket.off("error", destroy);
      door.sockets.handleUpgrade(request, socket, head, (webSocket) => {
        if (!door.holdsPlace) letGo();
        opening.welcome(webSocket);
      });
      // A handshake that did not fit has left the socket with nobody who hears its errors.
      if (socket.listenerCount("error") === 0) socket.on("error", destroy);
    };
    this.#decide(door, arrival, open);
  }

  #refuse(socket: Duplex, reason: Problem): void {
    this.#parts.refused(reason.code);
    refuseSocket(socket, reason);
  }

  /** A door that throws has a fault of ours: whoever came is told so, and nobody else notices. */
  #decide(door: Door, arrival: Arrival, open: (opening: Opening) => void): void {
    const failed = (error: unknown) => {
      this.#parts.log.error({ err: error, path: arrival.path }, "an upgrade could not be decided");
      open({ refused: problem("internal", "The connection met a fault of the service; it is in the log.") });
    };
    try {
      const opening = door.decide(arrival);
      if (opening instanceof Promise) opening.then(open).catch(failed);
      else open(opening);
    } catch (error) {
      failed(error);
    }
  }

  #arrive(
    request: IncomingMessage,
    socket: Duplex,
  ): { readonly refused: Problem } | (Arrival & { readonly door: Door | { readonly refused: Problem } }) {
    if (this.#isClosed) {
      return { refused: problem("shutting-down", "The service is stopping; connect again in a moment.") };
    }
    const { gate, trusts, doors } = this.#parts;
    const from = callerOf(request, trusts);
    // Before anything else, so that what is refused costs its sender as much as what is let in.
    const admitted = gate.admit(from, steadyMs());
    if ("refused" in admitted) return admitted;
    const path = pathOf(request.url) ?? "";
    const door = doors.find(({ opensAt }) => opensAt(path));
    return { request, path, from, socket, quota: admitted.quota, door: door ?? { refused: noDoor(request, path) } };
  }
}

function noDoor({ headers, method }: IncomingMessage, path: string): Problem {
  if (headers.upgrade?.toLowerCase() !== "websocket") {
    return problem("upgrade-invalid", "Only WebSockets are upgraded to here; leave the Upgrade header out.");
  }
  if (path === "") return problem("http-malformed", "The request line names no path that can be read.");
  return problem("not-found", `No WebSocket opens at ${method} ${path.slice(0, 200)}.`);
}

function destroy(this: Duplex): void {
  this.destroy();
}
