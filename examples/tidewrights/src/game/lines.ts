import type { Socket } from "node:net";

const LINE_MAX = 8_192;

/** Calls `take` with each line that is JSON. Ends the socket on a line that is too long or is no JSON. */
export function readLines(socket: Socket, take: (value: unknown) => void): void {
  let rest = "";
  socket.setEncoding("utf8");
  socket.on("data", (chunk: string) => {
    rest += chunk;
    const lines = rest.split("\n");
    rest = lines.pop() ?? "";
    if (rest.length > LINE_MAX) return void socket.destroy();
    for (const line of lines) {
      if (line.trim() === "") continue;
      let value: unknown;
      try {
        value = JSON.parse(line);
      } catch {
        return void socket.destroy();
      }
      take(value);
    }
  });
}

export function writeLine(socket: Socket, value: unknown): void {
  if (!socket.destroyed && socket.writable) socket.write(`${JSON.stringify(value)}\n`);
}
