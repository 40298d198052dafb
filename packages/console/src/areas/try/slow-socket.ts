import { platformSocket, type SocketLike } from "@yellow-harbor/client";

/** A frame as it went by. */
export interface SeenFrame {
  readonly number: number;
  readonly way: "out" | "in";
  readonly atMs: number;
  readonly text: string;
}

interface Line {
  /** Added to each frame, each way. */
  readonly delayMs: () => number;
  readonly saw: (way: SeenFrame["way"], text: string) => void;
}

type Listener = (event: never) => void;

/** The page's own WebSocket, over a line that shows what goes by and may be slow. Frames stay in their order. */
export async function slowSocket(url: string, subprotocol: string, line: Line): Promise<SocketLike> {
  const inner = await platformSocket(url, subprotocol);
  const out = inOrder(line);
  const back = inOrder(line);
  return {
    get readyState() {
      return inner.readyState;
    },
    set binaryType(type: string) {
      inner.binaryType = type;
    },
    send: (data) => {
      line.saw("out", textOf(data));
      out(() => inner.readyState === WebSocket.OPEN && inner.send(data));
    },
    close: (code, reason) => inner.close(code, reason),
    addEventListener: (type: string, listener: Listener) => {
      const heard = (event: { data?: unknown }) => {
        if (type === "message") line.saw("in", textOf(event.data));
        back(() => listener(event as never));
      };
      inner.addEventListener(type as "message", heard);
    },
  } as SocketLike;
}

const textOf = (data: unknown): string => (typeof data === "string" ? data : "bytes");

/** Does one thing after another, each as late as the line is slow. */
function inOrder({ delayMs }: Line): (act: () => void) => void {
  let nextAtMs = 0;
  return (act) => {
    const now = performance.now();
    nextAtMs = Math.max(nextAtMs, now + delayMs());
    if (nextAtMs <= now) act();
    else setTimeout(act, nextAtMs - now);
  };
}
