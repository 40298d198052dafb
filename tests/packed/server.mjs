// A dedicated server of somebody who has installed the kit: a line with a pass boards, "report" ends the run.
import { createServer } from "node:net";
import { InstanceKit } from "@yellow-harbor/kit";

let match;
const kit = new InstanceKit({
  match: (given) => {
    match = given;
  },
  stop: async (reason) => {
    await kit.goodbye(reason);
    process.exit(0);
  },
  dismissed: () => process.exit(0),
});
const server = createServer((socket) => {
  socket.setEncoding("utf8");
  socket.on("error", () => socket.destroy());
  socket.on("data", async (text) => {
    const line = text.trim();
    if (line === "report")
      await kit.report(
        match.run,
        match.players.map(({ id }, n) => ({ player: id, score: 10 - n })),
      );
    else socket.write(`${(await kit.board(line)).player.name}\n`);
  });
});
server.listen(kit.environment.port, kit.environment.host, () => kit.announce());
