import { createSocket } from "node:dgram";
import { connect, isIPv6 } from "node:net";
import type { Address } from "@yellow-harbor/protocol";
import { createWebSocketStream, WebSocket } from "ws";
import { type Pace, paced, passMessages } from "./pace.ts";

const CONNECT_PATIENCE_MS = 5_000;
const LINGER_MS = 1_000;
/** Most bytes of a datagram over IPv4 (RFC 768 and RFC 791). */
const DATAGRAM_MAX = 65_507;
/** With so much unread by the player, datagrams to it are lost, as they are on a line that is too narrow. */
const UNREAD_MAX = 262_144;
/** So far ahead of the pace datagrams may be; what comes faster is lost. */
const LATE_MS = 250;

export interface Joining {
  readonly player: WebSocket;
  readonly address: Address;
  readonly toInstance: Pace;
  readonly toPlayer: Pace;
  /** The instance cannot be reached, or its connection has failed. */
  readonly lost: () => void;
  readonly closed: () => void;
  /** Largest message, in bytes. */
  readonly messageMax: number;
}

/** Joins a player to an instance by what that speaks. Returns how to end it. */
export function joinTo(joining: Joining): () => void {
  switch (joining.address.transport) {
    case "udp":
      return joinUdp(joining);
    case "websocket":
      return joinWebSocket(joining);
    default:
      return joinTcp(joining);
  }
}

/** Messages of the player are bytes of a TCP connection, and its bytes messages. Returns how to end it. */
function joinTcp({ player, address: { host, port }, toInstance, toPlayer, lost }: Joining): () => void {
  const near = createWebSocketStream(player);
  const far = connect({ host, port });
  const patience = setTimeout(lost, CONNECT_PATIENCE_MS);
  far.setNoDelay(true);
  far.once("connect", () => clearTimeout(patience));
  near.on("error", lost);
  far.on("error", lost);
  near.pipe(paced(toInstance)).pipe(far);
  // The end of the instance's bytes ends the player's socket, once all of them have passed.
  far.pipe(paced(toPlayer)).pipe(near);
  return () => {
    clearTimeout(patience);
    // The player's last bytes may still be on their way.
    setTimeout(() => {
      far.destroy();
      near.destroy();
    }, LINGER_MS).unref();
  };
}

/** Messages are passed on as they are. Returns how to end it. */
function joinWebSocket({
  player,
  address: { host, port },
  toInstance,
  toPlayer,
  lost,
  closed,
  messageMax,
}: Joining): () => void {
  const way = { handshakeTimeout: CONNECT_PATIENCE_MS, perMessageDeflate: false, maxPayload: messageMax };
  const far = new WebSocket(`ws://${host}:${port}/`, way);
  // What the player sends meanwhile is left in its socket.
  player.pause();
  far.once("open", () => {
    passMessages(player, far, toInstance);
    passMessages(far, player, toPlayer);
    player.resume();
  });
  far.on("error", lost).on("close", closed);
  return () => far.terminate();
}

/** Each message of the player is a datagram, and each datagram a message. What comes too fast is lost, as on any line. */
function joinUdp({ player, address: { host, port }, toInstance, toPlayer, lost }: Joining): () => void {
  const far = createSocket({ type: isIPv6(host) ? "udp6" : "udp4" });
  let isOpen = true;
  far.on("error", lost);
  player.pause();
  far.once("connect", () => {
    player.on("message", (data: Buffer) => {
      const isLost = data.length > DATAGRAM_MAX || !toInstance.admits(data.length, LATE_MS);
      if (isOpen && !isLost) far.send(data, () => undefined);
    });
    far.on("message", (data) => {
      const isLost = player.bufferedAmount > UNREAD_MAX || !toPlayer.admits(data.length, LATE_MS);
      if (!isLost) player.send(data, { binary: true });
    });
    player.resume();
  });
  // Connected, it hears of nobody but the instance.
  far.connect(port, host);
  return () => {
    isOpen = false;
    far.close();
  };
}
