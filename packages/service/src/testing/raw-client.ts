import { WebSocket } from "ws";

/** A client of the published protocol and nothing else: frames out, frames in, the close code. */
export async function rawClient(url: string, subprotocols: string[] = []) {
  const socket = new WebSocket(`${url.replace("http", "ws")}/v1/play`, subprotocols);
  const frames: Record<string, unknown>[] = [];
  const waiting: (() => void)[] = [];
  const wake = () => {
    for (const resolve of waiting.splice(0)) resolve();
  };
  let closed: { code: number; reason: string } | undefined;
  socket.on("message", (text) => {
    frames.push(JSON.parse(String(text)));
    wake();
  });
  socket.on("close", (code, reason) => {
    closed = { code, reason: String(reason) };
    wake();
  });
  await new Promise((resolve, reject) => {
    socket.once("open", resolve);
    socket.once("error", reject);
  });
  const until = async <T>(find: () => T | undefined): Promise<T> => {
    for (;;) {
      const found = find();
      if (found !== undefined) return found;
      await new Promise<void>((resolve) => waiting.push(resolve));
    }
  };
  return {
    socket,
    frames,
    send: (value: unknown) => socket.send(typeof value === "string" ? value : JSON.stringify(value)),
    frame: (kind: string, id?: number) =>
      until(() => frames.find((one) => one.frame === kind && (id === undefined || one.id === id))),
    closed: () => until(() => closed),
  };
}
