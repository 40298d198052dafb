import type { Duplex } from "node:stream";

/** What the other side may leave unread: with more it is taken for one that hangs. */
const UNREAD_BYTES_MAX = 8_388_608;

interface TurnLinesParts {
  readonly stream: Duplex;
  /** Hears the whole lines of one piece, in order. */
  readonly hear: (lines: readonly string[]) => void;
  /** The other side reads too little. */
  readonly overflow: () => void;
}

/**
 * Lines between two processes of a service. What gathers goes out in one write: a write each would cost more than all that
 * is done for the line itself.
 */
export class TurnLines {
  readonly #stream: Duplex;
  readonly #overflow: () => void;
  #gathered: string[] = [];
  #rest = "";
  #isFlushDue = false;

  constructor({ stream, hear, overflow }: TurnLinesParts) {
    this.#stream = stream;
    this.#overflow = overflow;
    stream.setEncoding("utf8");
    // Whoever is gone at the other end is told of by its process.
    stream.on("error", () => undefined);
    stream.on("data", (text: string) => {
      const lines = (this.#rest + text).split("\n");
      this.#rest = lines.pop() ?? "";
      if (lines.length > 0) hear(lines);
    });
  }

  get unreadBytes(): number {
    return this.#stream.writableLength;
  }

  /** Takes a line, without its end, for the next flush. */
  add(line: string): void {
    this.#gathered.push(line);
  }

  flush(): void {
    if (this.#gathered.length === 0) return;
    this.#gathered.push("");
    this.#stream.write(this.#gathered.join("\n"));
    this.#gathered = [];
    if (this.#stream.writableLength > UNREAD_BYTES_MAX) this.#overflow();
  }

  /** Flushes once this turn of the event loop is over. */
  flushSoon(): void {
    if (this.#isFlushDue) return;
    this.#isFlushDue = true;
    setImmediate(() => {
      this.#isFlushDue = false;
      this.flush();
    });
  }
}
