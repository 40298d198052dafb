import type { Latency } from "@yellow-harbor/core";
import type { Hello, Problem, ProblemCode, RelayBytes } from "@yellow-harbor/protocol";
import type { CheckedRequest } from "./decode.ts";
import type { Frame } from "./framing.ts";

/** The way to one player's client, as the harbor's side sees it: a socket of this process, or one of another. */
export interface ClientChannel {
  readonly isOpen: boolean;
  /** Takes a frame; it goes out when the turn's work is spoken. */
  send(frame: Frame): void;
  /** Answers a protocol error of the client; closes when there are too many of them. */
  refuse(protocolError: Problem, requestId?: number): void;
  /** Says why, then closes with the code of the problem. */
  close(reason: Problem): void;
  /** Closes after the player's goodbye. */
  closeNormally(): void;
}

/** What is heard of clients, by the numbers of their connections. */
export interface ClientEvents {
  readonly hello: (connection: number, hello: Hello) => void;
  /** A request that fits its schema, with the bytes that it came in. */
  readonly request: (connection: number, request: CheckedRequest, bytes: number) => void;
  /** A message for the room in a binary frame. */
  readonly relayed: (connection: number, message: RelayBytes) => void;
  readonly measured: (connection: number, latency: Latency) => void;
  /** The game on a connection has fallen silent while its computer still answers, or speaks again. */
  readonly silent: (connection: number, isSilent: boolean) => void;
  /** A client was told a problem, or closed with it, before the harbor's side heard of it. */
  readonly refused: (code: ProblemCode) => void;
  readonly closed: (connection: number) => void;
}
