// A dedicated server that does as little as one can: takes matches, and has each pass that a line brings filled.
import { createServer } from "node:net";
import { InstanceKit } from "@yellow-harbor/kit";

const kit = new InstanceKit({
  match: () => undefined,
  stop: async (reason) => {
    await kit.goodbye(reason);
    process.exit(0);
  },
  dismissed: () => process.exit(1),
});
const server = createServer((socket) => {
  socket.setEncoding("utf8");
  socket.on("error", () => socket.destroy());
  socket.on("data", (line: string) => {
    void kit.board(line.trim()).then(() => socket.end());
  });
});
server.listen(kit.environment.port, () => void kit.announce());
