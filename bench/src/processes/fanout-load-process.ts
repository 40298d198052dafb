// 50 rooms of 16 on bare ws; each player keeps one relayed message of 40 bytes open. Counts deliveries.
import { WebSocket } from "ws";

const ROOMS = 50;
const ROOM = 16;
const BODY = "x".repeat(38);
const RELAYED = '{"frame":"relayed"';

interface Load {
  readonly url: string;
  readonly isService: boolean;
  readonly build: string;
}
interface Answer {
  readonly reply?: { room?: { id: string } };
}

let delivered = 0;
let answered = 0;
let isRunning = false;
const players: { socket: WebSocket; next: () => void; say: (frame: object) => Promise<Answer> }[] = [];

function open(url: string): Promise<void> {
  return new Promise((resolve, reject) => {
    const socket = new WebSocket(url, { perMessageDeflate: false });
    let id = 0;
    let waiting: ((answer: Answer) => void) | undefined;
    const next = () =>
      socket.send(
        JSON.stringify({ frame: "request", id: ++id, ask: "room.relay", args: { to: "others", body: BODY } }),
      );
    socket.on("message", (bytes: Buffer) => {
      // Deliveries are told by their first bytes; parsing each would measure this process instead of the server.
      if (bytes.toString("latin1", 0, RELAYED.length) === RELAYED) {
        delivered += 1;
        return;
      }
      const frame = JSON.parse(String(bytes)) as Answer & { frame: string; problem?: object };
      if (frame.frame === "update") return;
      if (frame.problem) throw new Error(`refused: ${bytes}`);
      if (waiting) {
        const resolveAnswer = waiting;
        waiting = undefined;
        return resolveAnswer(frame);
      }
      answered += 1;
      if (isRunning) next();
    });
    const say = (frame: object) =>
      new Promise<Answer>((resolveAnswer) => {
        waiting = resolveAnswer;
        socket.send(JSON.stringify(frame));
      });
    socket.once("open", () => {
      players.push({ socket, next, say });
      resolve();
    });
    socket.once("error", reject);
  });
}

async function connect({ url, isService, build }: Load): Promise<object> {
  for (let n = 0; n < ROOMS * ROOM; n++) await open(url);
  if (!isService) return {};
  let room = "";
  for (const [n, { say }] of players.entries()) {
    await say({ frame: "hello", wire: 1, build, name: `Player ${n}` });
    const ask = n % ROOM === 0 ? { ask: "room.open", args: { capacity: ROOM } } : { ask: "room.join", args: { room } };
    const answer = await say({ frame: "request", id: 0, ...ask });
    room = answer.reply?.room?.id ?? room;
  }
  return {};
}

async function measure(ms: number): Promise<object> {
  isRunning = true;
  for (const { next } of players) next();
  await new Promise((resolve) => setTimeout(resolve, 500));
  const [deliveredBefore, answeredBefore, begin] = [delivered, answered, performance.now()];
  await new Promise((resolve) => setTimeout(resolve, ms));
  const seconds = (performance.now() - begin) / 1000;
  const perSecond = (delivered - deliveredBefore) / seconds;
  const each = (delivered - deliveredBefore) / (answered - answeredBefore);
  isRunning = false;
  await new Promise((resolve) => setTimeout(resolve, 300));
  return { perSecond, each };
}

process.on("message", async (message: { connect: Load } | { measureMs: number }) => {
  process.send?.("connect" in message ? await connect(message.connect) : await measure(message.measureMs));
});
