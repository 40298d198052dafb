import { connect, type Socket } from "node:net";
import type { BoardingPass } from "@yellow-harbor/protocol";
import { readLines, writeLine } from "./lines.ts";
import type { ServerLine } from "./wire.ts";

export type Over = Extract<ServerLine, { over: unknown }>["over"];
export type Boarded = Extract<ServerLine, { boarded: unknown }>["boarded"];

/** The server did not let us in. */
export class NotBoardedError extends Error {
  readonly code: string;
  constructor(code: string, detail: string) {
    super(detail);
    this.code = code;
  }
}

export interface Aboard {
  readonly boarded: Boarded;
  /** Lays stones until the tide is in; resolves with how it ended. */
  play(): Promise<Over>;
  /** Closes the connection to the game. */
  disembark(): void;
}

const LAY_EVERY_MS = 120;

/** Goes to the pass's address and shows it. Rejects with {@link NotBoardedError} when refused. */
export function goAboard(
  { address, pass }: Pick<BoardingPass, "address" | "pass">,
  chance: () => number = Math.random,
): Promise<Aboard> {
  return new Promise((resolve, reject) => {
    const socket = connect(address.port, address.host, () => writeLine(socket, { pass }));
    const ending = new Ending();
    let laying: NodeJS.Timeout | undefined;
    let isWatching = false;
    readLines(socket, (value) => {
      const line = value as ServerLine;
      if ("boarded" in line)
        resolve({ boarded: line.boarded, play: () => ending.wait(), disembark: () => socket.destroy() });
      if ("watching" in line) {
        const { name, level } = line.watching;
        const boarded = { player: "", name, crew: "gulls" as const, level };
        isWatching = true;
        resolve({ boarded, play: () => ending.wait(), disembark: () => socket.destroy() });
      }
      if ("refused" in line) reject(new NotBoardedError(line.refused.code, line.refused.detail));
      if ("tide" in line && !isWatching) laying = setInterval(() => layStone(socket, chance), LAY_EVERY_MS);
      if ("over" in line) ending.over(line.over);
    });
    socket.on("error", (error) => {
      reject(error);
      ending.fail(error);
    });
    socket.on("close", () => {
      clearInterval(laying);
      reject(new NotBoardedError("closed", "the game closed the connection"));
      ending.fail(new Error("the game closed the connection before the tide was in"));
    });
  });
}

const layStone = (socket: Socket, chance: () => number) => writeLine(socket, { stone: 1 + Math.floor(chance() * 9) });

/** How the game ended, whether it is asked before or after. */
class Ending {
  #result: { over: Over } | { error: Error } | undefined;
  #waiting: { resolve: (over: Over) => void; reject: (error: Error) => void } | undefined;

  wait(): Promise<Over> {
    return new Promise((resolve, reject) => {
      this.#waiting = { resolve, reject };
      this.#settle();
    });
  }

  over(over: Over): void {
    this.#result ??= { over };
    this.#settle();
  }

  fail(error: Error): void {
    this.#result ??= { error };
    this.#settle();
  }

  #settle(): void {
    if (this.#result === undefined || this.#waiting === undefined) return;
    if ("over" in this.#result) this.#waiting.resolve(this.#result.over);
    else this.#waiting.reject(this.#result.error);
  }
}
