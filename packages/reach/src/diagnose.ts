import { lookup } from "node:dns/promises";
import { get as getPlain, type IncomingMessage, type RequestOptions } from "node:http";
import { get as getSecure } from "node:https";
import {
  AboutView,
  PLAY_PATH,
  type ReachCause,
  reachCauseOf,
  reachText,
  WIRE_SUBPROTOCOL,
  WIRE_VERSION,
} from "@yellow-harbor/protocol";
import { addressKind, kindWords } from "./address-kind.ts";
import { tryTcp } from "./tcp.ts";

export interface Target {
  readonly host: string;
  readonly port: number;
  /** Whether it is meant to speak TLS. */
  readonly tls: boolean;
}

export interface Step {
  readonly step: "name" | "connection" | "protocol" | "wire" | "build" | "websocket";
  readonly ok: boolean;
  readonly text: string;
}

export interface Diagnosis {
  readonly target: Target;
  readonly steps: readonly Step[];
  /** What goes wrong, or undefined when nothing does. */
  readonly cause: ReachCause | undefined;
  readonly about: AboutView | undefined;
}

interface Options {
  /** Build of the game client that wants in; not looked at when absent. */
  readonly build?: string | undefined;
  readonly patienceMs?: number;
}

const PATIENCE_MS = 3_000;

/** Goes the way to a service step by step, up to the first that fails. Touches nothing: no player comes of it. */
export async function diagnose(target: Target, { build, patienceMs = PATIENCE_MS }: Options = {}): Promise<Diagnosis> {
  const steps: Step[] = [];
  let about: AboutView | undefined;
  const done = (step: Step["step"], text: string) => void steps.push({ step, ok: true, text });
  const failed = (step: Step["step"], cause: ReachCause, more = ""): Diagnosis => {
    steps.push({ step, ok: false, text: `${more}${reachText(cause)}` });
    return { target, steps, cause, about };
  };

  const addresses = await lookup(target.host, { all: true }).catch(() => []);
  const [first] = addresses;
  if (first === undefined) return failed("name", "name-unknown", `${target.host}: `);
  done(
    "name",
    addresses.map(({ address }) => `${address}, ${kindWords[addressKind(address) ?? "unusable"]}`).join("; "),
  );

  const tried = await tryTcp(target.host, target.port, patienceMs);
  if (!tried.ok) return failed("connection", tried.cause);
  done("connection", `something takes connections, after ${tried.ms} ms`);

  const answer = await askAbout(target, patienceMs);
  if ("cause" in answer) {
    const cause = await otherwise(target, answer.cause, patienceMs);
    return failed("protocol", cause);
  }
  about = answer.about;
  done(
    "protocol",
    `harbor ${about.harbor}, version ${about.version}, ${target.tls ? "over TLS" : "without TLS"}; it sees this computer as ${about.seenAs}`,
  );

  if (about.wire !== WIRE_VERSION)
    return failed("wire", "wire-mismatch", `It speaks ${about.wire}, this is ${WIRE_VERSION}. `);
  done("wire", `both speak ${about.wire}`);

  const accepted = about.accepts.join(", ");
  if (build !== undefined && !about.accepts.includes(build)) {
    return failed("build", "build-mismatch", `It lets in ${accepted}, not ${build}. `);
  }
  done("build", build === undefined ? `it lets in ${accepted}` : `${build} is let in`);

  const fault = await tryWebSocket(target, patienceMs);
  if (fault !== undefined) return failed("websocket", fault);
  done("websocket", `${PLAY_PATH} opens`);
  return { target, steps, cause: undefined, about };
}

type Answer = { readonly about: AboutView } | { readonly cause: ReachCause };

const REQUEST: RequestOptions = { path: "/v1/about", headers: { accept: "application/json" } };

/** Asks what the service says of itself to anybody. */
function askAbout({ host, port, tls }: Target, timeout: number): Promise<Answer> {
  return new Promise((resolve) => {
    const asked = (tls ? getSecure : getPlain)({ ...REQUEST, host, port, timeout, agent: false }, (response) => {
      void read(response).then((text) => resolve(understood(response, text)));
    });
    asked.on("timeout", () => asked.destroy(new Error("timeout")));
    asked.on("error", (error) => resolve({ cause: reachCauseOf(error) }));
  });
}

const BODY_MAX = 65_536;

async function read(response: IncomingMessage): Promise<string> {
  let text = "";
  try {
    for await (const chunk of response) {
      text += String(chunk);
      if (text.length > BODY_MAX) break;
    }
  } catch {
    // What was read before it broke off is judged.
  }
  return text;
}

function understood({ statusCode }: IncomingMessage, text: string): Answer {
  try {
    const about = AboutView.safeParse(JSON.parse(text));
    if (statusCode === 200 && about.success) return { about: about.data };
  } catch {
    // No JSON at all.
  }
  return { cause: "wrong-protocol" };
}

/** What stands behind a failed question: the other of TLS and plain may be what is spoken there. */
async function otherwise(target: Target, cause: ReachCause, patienceMs: number): Promise<ReachCause> {
  if (target.tls || cause === "wrong-protocol") {
    // A web server that speaks plain HTTP tells a TLS client so; one that wants TLS answers plain HTTP with words.
    const other = await askAbout({ ...target, tls: !target.tls }, patienceMs);
    if ("about" in other) return target.tls ? "tls-missing" : "tls-unexpected";
  }
  if (target.tls) return cause;
  const secure = await handshake(target, patienceMs);
  // The connection itself came about before: whoever took it does not answer.
  return secure ? "tls-unexpected" : cause === "no-answer" ? "silent" : cause;
}

/** Whether a TLS handshake comes about, whatever the certificate. */
function handshake({ host, port }: Target, timeout: number): Promise<boolean> {
  return new Promise((resolve) => {
    const asked = getSecure({ ...REQUEST, host, port, timeout, agent: false, rejectUnauthorized: false });
    const finish = (isSecure: boolean) => {
      asked.destroy();
      resolve(isSecure);
    };
    asked.on("socket", (socket) => socket.once("secureConnect", () => finish(true)));
    asked.on("response", () => finish(true));
    asked.on("timeout", () => finish(false));
    asked.on("error", () => finish(false));
  });
}

async function tryWebSocket({ host, port, tls }: Target, handshakeTimeout: number): Promise<ReachCause | undefined> {
  // Loaded here: who asks for no diagnosis need not wait for it.
  const { WebSocket } = await import("ws");
  const named = host.includes(":") && !host.startsWith("[") ? `[${host}]` : host;
  return new Promise((resolve) => {
    const socket = new WebSocket(`${tls ? "wss" : "ws"}://${named}:${port}${PLAY_PATH}`, [WIRE_SUBPROTOCOL], {
      handshakeTimeout,
    });
    socket.on("open", () => {
      socket.close(1000);
      resolve(undefined);
    });
    socket.on("error", (error) => resolve(reachCauseOf(error)));
  });
}
