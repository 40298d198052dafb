// Plays many players over bare ws: the same load for the service and for its ceiling. Each player has one request open.
import { WebSocket } from "ws";

const PLAYERS = 200;
const ROOM = 4;

interface Load {
  readonly url: string;
  readonly isService: boolean;
  readonly build: string;
}
interface Frame {
  readonly frame: string;
  readonly id?: number;
  readonly reply?: { room?: { id: string } };
  readonly problem?: object;
  readonly scope?: string;
}

class Player {
  readonly #socket: WebSocket;
  #id = 0;
  #isReady = false;
  #waiting: ((frame: Frame) => void) | undefined;
  isRunning = false;
  answered = 0;
  heard = 0;
  lastUpdate: object | undefined;

  constructor(socket: WebSocket) {
    this.#socket = socket;
    socket.on("message", (bytes) => this.#hear(String(bytes)));
  }

  static open(url: string): Promise<Player> {
    return new Promise((resolve, reject) => {
      const socket = new WebSocket(url, { perMessageDeflate: false });
      const player = new Player(socket);
      socket.once("open", () => resolve(player));
      socket.once("error", reject);
    });
  }

  say(frame: object): Promise<Frame> {
    return new Promise((resolve) => {
      this.#waiting = resolve;
      this.#socket.send(JSON.stringify(frame));
    });
  }

  request(ask: string, args: object): Promise<Frame> {
    return this.say({ frame: "request", id: ++this.#id, ask, args });
  }

  next(): void {
    this.#isReady = !this.#isReady;
    this.#socket.send(
      JSON.stringify({ frame: "request", id: ++this.#id, ask: "room.ready", args: { ready: this.#isReady } }),
    );
  }

  #hear(text: string): void {
    // Every message is parsed, as a client would; what is measured is the server, for both alike.
    const frame = JSON.parse(text) as Frame;
    if (frame.frame === "update") {
      this.heard += 1;
      if (frame.scope === "room") this.lastUpdate = frame;
      return;
    }
    if (this.isRunning) {
      if (frame.problem) throw new Error(`refused: ${text}`);
      this.answered += 1;
      return this.next();
    }
    const waiting = this.#waiting;
    this.#waiting = undefined;
    waiting?.(frame);
  }
}

const players: Player[] = [];

async function connect({ url, isService, build }: Load): Promise<object> {
  for (let n = 0; n < PLAYERS; n++) players.push(await Player.open(url));
  if (!isService) return {};
  let room = "";
  for (const [n, player] of players.entries()) {
    await player.say({ frame: "hello", wire: 1, build, name: `Player ${n}` });
    if (n % ROOM === 0) room = (await player.request("room.open", { capacity: ROOM })).reply?.room?.id ?? "";
    else await player.request("room.join", { room });
  }
  await players[0]?.request("room.ready", { ready: true });
  return players[1]?.lastUpdate ?? {};
}

async function measure(ms: number): Promise<{ perSecond: number; updatesPerCommand: number }> {
  for (const player of players) {
    player.isRunning = true;
    player.next();
  }
  // The first half second warms both sides up.
  await new Promise((resolve) => setTimeout(resolve, 500));
  const total = (of: "answered" | "heard") => players.reduce((sum, player) => sum + player[of], 0);
  const [answered, heard, begin] = [total("answered"), total("heard"), performance.now()];
  await new Promise((resolve) => setTimeout(resolve, ms));
  const seconds = (performance.now() - begin) / 1000;
  const commands = total("answered") - answered;
  const updatesPerCommand = (total("heard") - heard) / commands;
  for (const player of players) player.isRunning = false;
  await new Promise((resolve) => setTimeout(resolve, 200));
  return { perSecond: commands / seconds, updatesPerCommand };
}

process.on("message", async (message: { connect: Load } | { measureMs: number }) => {
  const answer = "connect" in message ? { sample: await connect(message.connect) } : await measure(message.measureMs);
  process.send?.(answer);
});
