import { WebSocket } from "ws";

export interface Answer {
  readonly frame: string;
  readonly reply?: { readonly room?: { readonly id: string } };
  readonly problem?: { readonly code: string };
}

/** A player on a bare WebSocket: asks one thing at a time, and lets everything else pass by unparsed. */
export class BarePlayer {
  readonly socket: WebSocket;
  /** Hears what is no answer, as bytes. */
  onOther: ((bytes: Buffer) => void) | undefined;
  #id = 0;
  #waiting: ((answer: Answer) => void) | undefined;

  private constructor(socket: WebSocket) {
    this.socket = socket;
    socket.on("message", (bytes: Buffer) => {
      const head = bytes.toString("latin1", 0, 18);
      if (this.#waiting && (head.startsWith('{"frame":"reply"') || head.startsWith('{"frame":"welcome"'))) {
        const answer = JSON.parse(String(bytes)) as Answer;
        const waiting = this.#waiting;
        this.#waiting = undefined;
        waiting(answer);
      } else this.onOther?.(bytes);
    });
  }

  static open(url: string): Promise<BarePlayer> {
    return new Promise((resolve, reject) => {
      const socket = new WebSocket(url, { perMessageDeflate: false });
      const player = new BarePlayer(socket);
      socket.once("open", () => resolve(player));
      socket.once("error", reject);
    });
  }

  say(frame: object): Promise<Answer> {
    return new Promise((resolve) => {
      this.#waiting = resolve;
      this.socket.send(JSON.stringify(frame));
    });
  }

  hello(build: string, name: string): Promise<Answer> {
    return this.say({ frame: "hello", wire: 1, build, name });
  }

  /** Asks, and throws when refused with another code than those. */
  async request(ask: string, args: object, mayBe: readonly string[] = []): Promise<Answer> {
    const answer = await this.say({ frame: "request", id: ++this.#id, ask, args });
    const code = answer.problem?.code;
    if (code !== undefined && !mayBe.includes(code)) throw new Error(`${ask} was refused: ${JSON.stringify(answer)}`);
    return answer;
  }
}

/** Does something for each number below `count`, so many at a time. */
export async function inTurns(count: number, atOnce: number, one: (n: number) => Promise<void>): Promise<void> {
  let next = 0;
  const work = async () => {
    for (let n = next++; n < count; n = next++) await one(n);
  };
  await Promise.all(Array.from({ length: Math.min(count, atOnce) }, work));
}
