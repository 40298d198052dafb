/** The part of the WebSocket interface (WHATWG) that the SDK uses: browsers and Node 22 have it, `ws` offers it. */
export interface SocketLike {
  readonly readyState: number;
  /** Set to `arraybuffer`. */
  binaryType?: string;
  send(data: string | Uint8Array<ArrayBuffer>): void;
  close(code?: number, reason?: string): void;
  addEventListener(type: "open", listener: () => void): void;
  addEventListener(type: "message", listener: (event: { data: unknown }) => void): void;
  addEventListener(type: "close", listener: (event: { code: number; reason: string }) => void): void;
  addEventListener(type: "error", listener: (event: unknown) => void): void;
}

export type SocketMaker = (url: string, subprotocol: string) => SocketLike | Promise<SocketLike>;

/** The platform's own WebSocket, else `ws` (Node before 22). */
export const platformSocket: SocketMaker = async (url, subprotocol) => {
  const own = (globalThis as { WebSocket?: new (url: string, protocols: string[]) => SocketLike }).WebSocket;
  if (own) return new own(url, [subprotocol]);
  const { WebSocket } = await import("ws");
  return new WebSocket(url, [subprotocol]) as unknown as SocketLike;
};

export const SOCKET_OPEN = 1;

/** Address of a WebSocket at a path of the service. */
export function socketUrl(url: string, path: string): string {
  // A service may lie below a path of a larger site: what stands there is kept.
  const parsed = new URL(url);
  parsed.pathname = `${parsed.pathname.replace(/\/+$/, "")}${path}`;
  parsed.search = "";
  parsed.hash = "";
  parsed.protocol = parsed.protocol === "https:" || parsed.protocol === "wss:" ? "wss:" : "ws:";
  return parsed.href;
}
