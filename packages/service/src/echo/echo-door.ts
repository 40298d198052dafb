import { ECHO_MAX_BYTES, ECHO_PATH, ECHO_SUBPROTOCOL } from "@yellow-harbor/protocol";
import { type WebSocket, WebSocketServer } from "ws";
import type { Door, Opening } from "../front-door/front-door.ts";

/** So many echoes a connection is answered, and for so long: enough to measure, and no more. */
const ECHOES_MAX = 40;
const STAY_MS = 15_000;

/** Close codes of RFC 6455, section 7.4.1. */
const NORMAL = 1000;
const POLICY = 1008;

/** The WebSockets of those who measure how far away they are: what they send comes back. */
export const echoSockets = (): WebSocketServer =>
  new WebSocketServer({
    noServer: true,
    perMessageDeflate: false,
    maxPayload: ECHO_MAX_BYTES,
    handleProtocols: (offered) => (offered.has(ECHO_SUBPROTOCOL) ? ECHO_SUBPROTOCOL : false),
  });

export function answerEchoes(socket: WebSocket): void {
  let left = ECHOES_MAX;
  const late = setTimeout(() => socket.close(NORMAL, "measured"), STAY_MS);
  late.unref();
  socket.on("error", () => socket.terminate());
  socket.once("close", () => clearTimeout(late));
  socket.on("message", (data, binary) => {
    left -= 1;
    if (left < 0) socket.close(POLICY, "too-many-echoes");
    else socket.send(data, { binary });
  });
}

/** Answers echoes at the service itself. */
export class EchoDoor implements Door {
  readonly sockets = echoSockets();
  readonly holdsPlace = true;

  opensAt(path: string): boolean {
    return path === ECHO_PATH;
  }

  decide(): Opening {
    return { welcome: answerEchoes };
  }

  close(): void {
    for (const socket of this.sockets.clients) socket.terminate();
    this.sockets.close();
  }
}
