import type { Socket } from "node:net";
import { PLAY_PATH, problem, WIRE_SUBPROTOCOL } from "@yellow-harbor/protocol";
import type { WebSocket } from "ws";
import type { Arrival, Door, Opening } from "../front-door/front-door.ts";
import type { WorkerPool } from "../workers/worker-pool.ts";
import type { Gateway } from "./gateway.ts";
import type { PlayerSockets } from "./player-sockets.ts";

interface PlayerDoorParts {
  readonly gateway: Pick<Gateway, "connected">;
  /** Sockets of this process: for all clients without workers, and while none is there. */
  readonly sockets: PlayerSockets;
  readonly workers: Pick<WorkerPool, "leastBusy"> | undefined;
  /** Pages whose games are let in; all are when there are none. */
  readonly origins: readonly string[];
}

/** Lets players' clients in. */
export class PlayerDoor implements Door {
  readonly holdsPlace = true;
  readonly #parts: PlayerDoorParts;

  constructor(parts: PlayerDoorParts) {
    this.#parts = parts;
  }

  get sockets(): Door["sockets"] {
    return this.#parts.sockets.server;
  }

  opensAt(path: string): boolean {
    return path === PLAY_PATH;
  }

  /** Lets a client in when it offers the protocol that is spoken here, or none at all. */
  decide({ request, socket, from, quota }: Arrival): Opening {
    const { origins, gateway, sockets, workers } = this.#parts;
    const { "sec-websocket-protocol": offered, origin } = request.headers;
    if (origin !== undefined && origins.length > 0 && !origins.includes(origin)) {
      const detail = `Games of the page ${origin.slice(0, 200)} are not let in; list it in players.origins.`;
      return { refused: problem("origin-not-allowed", detail) };
    }
    if (offered !== undefined && !offered.split(",").some((name) => name.trim() === WIRE_SUBPROTOCOL)) {
      const detail = `None of the subprotocols ${offered.slice(0, 200)} is spoken here; this service speaks ${WIRE_SUBPROTOCOL}. Update the client.`;
      return { refused: problem("wire-unsupported", detail, { accepted: [WIRE_SUBPROTOCOL] }) };
    }
    const raw = socket as Socket;
    const worker = workers?.leastBusy();
    if (worker === undefined) {
      const accept = (webSocket: WebSocket) => (number: number) => sockets.accept(number, webSocket, raw);
      return { welcome: (webSocket) => gateway.connected({ from, quota }, accept(webSocket)) };
    }
    return {
      handOver: (head) =>
        gateway.connected({ from, quota }, (number) => worker.take(number, { request, socket: raw, head })),
    };
  }
}
