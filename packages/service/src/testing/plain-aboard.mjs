// How a bot boards the plain instance: one line with the pass, and later one that ends the run.
import { connect } from "node:net";

const say = ({ host, port }, line) =>
  new Promise((resolve, reject) => {
    const socket = connect(port, host, () => socket.write(`${line}\n`));
    socket.setEncoding("utf8");
    socket.on("error", reject);
    socket.on("data", (text) => {
      socket.destroy();
      resolve(JSON.parse(text));
    });
  });

export async function goAboard({ address, pass }) {
  const { status, body } = await say(address, pass);
  if (status !== 200) throw Object.assign(new Error(body.detail), { code: body.code });
  return {
    // Too early until everybody is aboard, and too late once another one has done it.
    play: async () => {
      for (let attempt = 0; attempt < 20; attempt++) {
        await new Promise((resolve) => setTimeout(resolve, 200));
        const answer = await say(address, "report");
        if (answer.status === 200 || answer.body.code === "result-known") return;
      }
    },
    disembark: () => undefined,
  };
}
