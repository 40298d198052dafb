import type { Latency } from "@yellow-harbor/core";
import type { Hello, Problem, ProblemCode, RelayBytes } from "@yellow-harbor/protocol";
import type { Config } from "../config/schema.ts";
import type { CheckedRequest } from "../gateway/decode.ts";
import type { Frame } from "../gateway/framing.ts";

/*
 * What a service and its workers say to each other. Lines go both ways, each with its kind first and tabs between its parts;
 * the last part is JSON, which has neither tabs nor line ends of its own. Sockets go beside them, with what they asked for.
 */

/** What a worker is started with. */
export interface WorkerStart {
  readonly start: { readonly players: Config["players"]; readonly logLevel: string };
}

/** A socket that comes with this asked for a WebSocket. */
export interface HandedOver {
  readonly connection: number;
  readonly request: { readonly method: string; readonly url: string; readonly headers: Record<string, unknown> };
  /** What the client has sent behind its request, in base64. */
  readonly head: string;
}

export type ToWorker =
  | { readonly to: "frame"; readonly connections: readonly number[]; readonly content: Frame["content"] }
  | { readonly to: "refuse"; readonly connection: number; readonly id: number | undefined; readonly problem: Problem }
  | { readonly to: "close"; readonly connection: number; readonly problem: Problem }
  | { readonly to: "close-normally"; readonly connection: number }
  /** The harbor's time. */
  | { readonly to: "clock"; readonly atMs: number };

/** What a worker's process uses. */
export interface WorkerFigures {
  readonly memoryBytes: number;
  /** Processor time since its start, in seconds. */
  readonly cpuSeconds: number;
  /** How late its event loop was lately (p99), in milliseconds. */
  readonly loopDelayMs: number;
}

export type FromWorker =
  /** From now on it can be handed sockets. */
  | { readonly from: "ready" }
  | { readonly from: "hello"; readonly connection: number; readonly hello: Hello }
  | { readonly from: "request"; readonly connection: number; readonly bytes: number; readonly request: CheckedRequest }
  | { readonly from: "relayed"; readonly connection: number; readonly message: RelayBytes }
  | { readonly from: "measured"; readonly connection: number; readonly latency: Latency }
  | { readonly from: "figures"; readonly figures: WorkerFigures }
  /** A client was refused on the spot. */
  | { readonly from: "refused"; readonly code: ProblemCode }
  | { readonly from: "silent"; readonly connection: number; readonly isSilent: boolean }
  | { readonly from: "closed"; readonly connection: number };

const flag = (is: boolean) => (is ? "1" : "0");

export function writeToWorker(message: ToWorker): string {
  switch (message.to) {
    case "frame":
      return typeof message.content === "string"
        ? `f\t${message.connections.join(",")}\t${message.content}`
        : `b\t${message.connections.join(",")}\t${inBase64(message.content)}`;
    case "refuse":
      return `r\t${message.connection}\t${message.id ?? ""}\t${JSON.stringify(message.problem)}`;
    case "close":
      return `c\t${message.connection}\t${JSON.stringify(message.problem)}`;
    case "close-normally":
      return `n\t${message.connection}`;
    case "clock":
      return `t\t${message.atMs}`;
  }
}

export function readToWorker(line: string): ToWorker {
  const [kind, first, rest] = partsOf(line);
  switch (kind) {
    case "f":
      return { to: "frame", connections: first.split(",").map(Number), content: rest };
    case "b":
      return { to: "frame", connections: first.split(",").map(Number), content: Buffer.from(rest, "base64") };
    case "r": {
      const end = rest.indexOf("\t");
      const id = end === 0 ? undefined : Number(rest.slice(0, end));
      return { to: "refuse", connection: Number(first), id, problem: JSON.parse(rest.slice(end + 1)) as Problem };
    }
    case "c":
      return { to: "close", connection: Number(first), problem: JSON.parse(rest) as Problem };
    case "n":
      return { to: "close-normally", connection: Number(first) };
    default:
      return { to: "clock", atMs: Number(first) };
  }
}

export function writeFromWorker(message: FromWorker): string {
  if (message.from === "ready") return "y";
  if (message.from === "figures") return `g\t\t${JSON.stringify(message.figures)}`;
  if (message.from === "refused") return `x\t${message.code}`;
  const { connection } = message;
  switch (message.from) {
    case "hello":
      return `h\t${connection}\t${JSON.stringify(message.hello)}`;
    case "request":
      return `r\t${connection}\t${message.bytes}\t${JSON.stringify(message.request)}`;
    case "relayed": {
      const { to, body } = message.message;
      return `b\t${connection}\t${JSON.stringify(to)}\t${inBase64(body)}`;
    }
    case "measured":
      return `m\t${connection}\t${JSON.stringify(message.latency)}`;
    case "silent":
      return `s\t${connection}\t${flag(message.isSilent)}`;
    case "closed":
      return `c\t${connection}`;
  }
}

export function readFromWorker(line: string): FromWorker {
  const [kind, first, rest] = partsOf(line);
  const connection = Number(first);
  switch (kind) {
    case "h":
      return { from: "hello", connection, hello: JSON.parse(rest) as Hello };
    case "r": {
      const end = rest.indexOf("\t");
      const request = JSON.parse(rest.slice(end + 1)) as CheckedRequest;
      return { from: "request", connection, bytes: Number(rest.slice(0, end)), request };
    }
    case "b": {
      const end = rest.indexOf("\t");
      const to = JSON.parse(rest.slice(0, end)) as RelayBytes["to"];
      return { from: "relayed", connection, message: { to, body: Buffer.from(rest.slice(end + 1), "base64") } };
    }
    case "m":
      return { from: "measured", connection, latency: JSON.parse(rest) as Latency };
    case "y":
      return { from: "ready" };
    case "g":
      return { from: "figures", figures: JSON.parse(rest) as WorkerFigures };
    case "x":
      return { from: "refused", code: first as ProblemCode };
    case "s":
      return { from: "silent", connection, isSilent: rest === "1" };
    default:
      return { from: "closed", connection };
  }
}

const inBase64 = (bytes: Uint8Array): string =>
  Buffer.from(bytes.buffer, bytes.byteOffset, bytes.length).toString("base64");

function partsOf(line: string): readonly [kind: string, first: string, rest: string] {
  const end = line.indexOf("\t", 2);
  return end < 0 ? [line[0] ?? "", line.slice(2), ""] : [line[0] ?? "", line.slice(2, end), line.slice(end + 1)];
}
