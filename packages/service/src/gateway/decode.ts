import {
  type FieldFault,
  FRAME_MAX_BYTES,
  Heartbeat,
  Hello,
  type PlayerArgs,
  type PlayerAsk,
  type Problem,
  playerAsks,
  playerRequests,
  problem,
  RequestEnvelope,
} from "@yellow-harbor/protocol";
import { closest } from "fastest-levenshtein";
import type { z } from "zod";

/** A request with its arguments checked: one member for each thing that can be asked. */
export type CheckedRequest = {
  [A in PlayerAsk]: { readonly id: number; readonly ask: A; readonly args: PlayerArgs<A> };
}[PlayerAsk];

export type Decoded =
  | { readonly frame: "hello"; readonly hello: Hello }
  | { readonly frame: "heartbeat"; readonly heartbeat: Heartbeat }
  | { readonly frame: "request"; readonly request: CheckedRequest }
  /** A protocolError; with the id of the request when there is one. */
  | {
      readonly frame: "protocolError";
      /** What it was meant to be, when that can be told. */
      readonly of: "hello" | undefined;
      readonly problem: Problem;
      readonly id: number | undefined;
    };

/** From bytes to a frame of a known shape. Everything after this works on checked values. */
export function decode(bytes: Buffer): Decoded {
  if (bytes.length > FRAME_MAX_BYTES) {
    return protocolError(
      problem("frame-too-large", `The frame has ${bytes.length} bytes; at most ${FRAME_MAX_BYTES} are taken.`),
    );
  }
  let value: unknown;
  try {
    value = JSON.parse(bytes.toString("utf8"));
  } catch {
    return protocolError(problem("frame-not-json", "The frame is not JSON; send one JSON object in each text frame."));
  }
  const kind = (value as { frame?: unknown } | null)?.frame;
  if (kind === "request") return decodeRequest(value);
  if (kind === "heartbeat") return decodeHeartbeat(value);
  if (kind === "hello") return decodeHello(value);
  const accepted = ["hello", "heartbeat", "request"];
  return protocolError(
    problem("frame-unknown", "The frame is of no known kind; its member frame must be hello, heartbeat or request.", {
      accepted,
    }),
  );
}

function decodeHello(value: unknown): Decoded {
  const hello = Hello.safeParse(value);
  if (hello.success) return { frame: "hello", hello: hello.data };
  return protocolError(invalid("The hello", fieldFaults(hello.error)), undefined, "hello");
}

function decodeHeartbeat(value: unknown): Decoded {
  const heartbeat = Heartbeat.safeParse(value);
  return heartbeat.success
    ? { frame: "heartbeat", heartbeat: heartbeat.data }
    : protocolError(invalid("The heartbeat", fieldFaults(heartbeat.error)));
}

function decodeRequest(value: unknown): Decoded {
  const envelope = RequestEnvelope.safeParse(value);
  if (!envelope.success) {
    const id = (value as { id?: unknown }).id;
    return protocolError(invalid("The request", fieldFaults(envelope.error)), typeof id === "number" ? id : undefined);
  }
  const { id, ask, args } = envelope.data;
  if (!isAsk(ask)) {
    const detail = `There is no request ${ask}; did you mean ${closest(ask, playerAsks)}?`;
    return protocolError(problem("request-unknown", detail, { accepted: playerAsks }), id);
  }
  const checked = (playerRequests[ask].args as z.ZodType).safeParse(args ?? {});
  if (!checked.success) return protocolError(invalid(`The request ${ask}`, fieldFaults(checked.error, "args")), id);
  return { frame: "request", request: { id, ask, args: checked.data } as CheckedRequest };
}

const isAsk = (ask: string): ask is PlayerAsk => Object.hasOwn(playerRequests, ask);

const protocolError = (problem: Problem, id?: number, of?: "hello"): Decoded => ({
  frame: "protocolError",
  of,
  problem,
  id,
});

/** The faults of a schema error, each with its path. */
export function fieldFaults(error: z.core.$ZodError, prefix = ""): FieldFault[] {
  return error.issues.slice(0, 20).map((issue) => ({
    path: [...(prefix ? [prefix] : []), ...issue.path.map(String)].join("."),
    message: issue.message,
  }));
}

export function invalid(what: string, fields: FieldFault[]): Problem {
  const list = fields.map(({ path, message }) => (path ? `${path}: ${message}` : message)).join("; ");
  return problem("request-invalid", `${what} does not fit: ${list}.`, { fields });
}
