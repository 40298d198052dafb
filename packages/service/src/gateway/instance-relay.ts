import { relayDoor } from "@yellow-harbor/core";
import {
  type Address,
  type InstanceId,
  type PlayerId,
  type Problem,
  problem,
  RELAY_PATH,
  RELAY_SUBPROTOCOL,
} from "@yellow-harbor/protocol";
import type { Logger } from "pino";
import { type WebSocket, WebSocketServer } from "ws";
import type { Config } from "../config/schema.ts";
import type { Arrival, Door, Opening } from "../front-door/front-door.ts";
import { passDetail } from "../keys/pass-detail.ts";
import type { Tokens } from "../keys/tokens.ts";
import type { HarborRuntime } from "../runtime/runtime.ts";
import { joinTo } from "./instance-joins.ts";
import { Pace } from "./pace.ts";

/** Larger messages are not taken from players. */
const MESSAGE_MAX = 262_144;
/** Connections of one player at once: its game may open a second one before it has closed the first. */
const PLAYER_MAX = 4;
const LOOK_MS = 1_000;

/** Close codes of RFC 6455, section 7.4.1. */
const NORMAL = 1000;
const GOING_AWAY = 1001;
const TRY_LATER = 1013;

export interface RelayParts {
  readonly runtime: HarborRuntime;
  readonly tokens: Tokens;
  readonly config: Config;
  readonly log: Logger;
}

export interface RelayFigures {
  readonly connections: number;
  readonly bytesToInstances: number;
  readonly bytesToPlayers: number;
}

/**
 * The way to an instance for those who can open no other: a secure socket at the service, behind which bytes pass to the
 * instance's own port and back. A boarding pass for that very instance opens it; the instance still looks at the pass.
 */
export class InstanceRelay implements Door {
  readonly #parts: RelayParts;
  readonly holdsPlace = false;
  readonly sockets = new WebSocketServer({
    noServer: true,
    perMessageDeflate: false,
    maxPayload: MESSAGE_MAX,
    handleProtocols: (offered) => (offered.has(RELAY_SUBPROTOCOL) ? RELAY_SUBPROTOCOL : false),
  });
  /** Connections of each player who has any. */
  readonly #ofPlayer = new Map<PlayerId, number>();
  readonly #figures = { connections: 0, bytesToInstances: 0, bytesToPlayers: 0 };

  constructor(parts: RelayParts) {
    this.#parts = parts;
  }

  get figures(): RelayFigures {
    return { ...this.#figures };
  }

  opensAt(path: string): boolean {
    return path.startsWith(RELAY_PATH);
  }

  async decide({ path, request }: Arrival): Promise<Opening> {
    const instance = path.slice(RELAY_PATH.length);
    const found = await this.#look(instance, request);
    return "refused" in found ? found : { welcome: (player) => this.#join(player, instance, found) };
  }

  close(): void {
    for (const socket of this.sockets.clients) socket.close(GOING_AWAY, "shutting-down");
    this.sockets.close();
  }

  async #look(
    instance: InstanceId,
    request: Arrival["request"],
  ): Promise<{ address: Address; owner: PlayerId } | { readonly refused: Problem }> {
    const { config, tokens, runtime } = this.#parts;
    if (!config.instanceRelay.enabled) {
      const detail = "Instances are not reached through this service; instanceRelay.enabled switches that on.";
      return { refused: problem("relay-off", detail) };
    }
    const { connections } = config.instanceRelay;
    if (this.#figures.connections >= connections) {
      const detail = `${connections} connections to instances pass through here, which is the most; try again, or go straight to the address.`;
      return { refused: problem("relay-full", detail) };
    }
    const [protocol, pass = ""] = (request.headers["sec-websocket-protocol"] ?? "")
      .split(",")
      .map((name) => name.trim());
    if (protocol !== RELAY_SUBPROTOCOL) {
      const detail = `Offer two subprotocols: ${RELAY_SUBPROTOCOL}, and the boarding pass.`;
      return { refused: problem("wire-unsupported", detail, { accepted: [RELAY_SUBPROTOCOL] }) };
    }
    const check = tokens.checkPass(pass, instance);
    if (!check.ok) return { refused: problem(check.code, passDetail[check.code]) };
    if ((this.#ofPlayer.get(check.player) ?? 0) >= PLAYER_MAX) {
      const detail = `${PLAYER_MAX} connections of this player pass through here, which is the most; close one of them.`;
      return { refused: problem("relay-full", detail) };
    }
    const found = await runtime.query(({ state }) => relayDoor(state, instance, check));
    if (found === undefined) {
      return {
        refused: problem("berth-unknown", "No berth is kept for this pass; the run is over or the player has left."),
      };
    }
    return { address: found, owner: check.player };
  }

  #join(player: WebSocket, instance: InstanceId, { address, owner }: { address: Address; owner: PlayerId }): void {
    const { config, log } = this.#parts;
    const { bytesPerSecond, idleMs } = config.instanceRelay;
    const figures = this.#figures;
    figures.connections += 1;
    this.#ofPlayer.set(owner, (this.#ofPlayer.get(owner) ?? 0) + 1);
    let isOver = false;
    const toInstance = new Pace(bytesPerSecond, (bytes) => {
      figures.bytesToInstances += bytes;
    });
    const toPlayer = new Pace(bytesPerSecond, (bytes) => {
      figures.bytesToPlayers += bytes;
    });
    let letGo: () => void = () => undefined;
    const end = (code: number, why: string) => {
      if (isOver) return;
      isOver = true;
      clearInterval(idle);
      figures.connections -= 1;
      const left = (this.#ofPlayer.get(owner) ?? 1) - 1;
      if (left === 0) this.#ofPlayer.delete(owner);
      else this.#ofPlayer.set(owner, left);
      player.close(code, why);
      letGo();
      log.debug(
        { instance, why, toInstance: toInstance.bytes, toPlayer: toPlayer.bytes },
        "a relayed connection ended",
      );
    };
    const look = () => {
      if (performance.now() - Math.max(toInstance.lastMs, toPlayer.lastMs) > idleMs) end(GOING_AWAY, "idle");
    };
    const idle = setInterval(look, Math.min(idleMs, LOOK_MS));
    idle.unref();
    player.on("error", () => end(GOING_AWAY, "error"));
    player.on("close", () => end(GOING_AWAY, "closed by the player"));
    const lost = () => end(TRY_LATER, "instance-lost");
    const closed = () => end(NORMAL, "closed by the instance");
    letGo = joinTo({ player, address, toInstance, toPlayer, lost, closed, messageMax: MESSAGE_MAX });
  }
}
