// The ceiling of `workers`: the same server in one process or in several that share a port.
import cluster from "node:cluster";
import { Echo } from "./echo.ts";

if (cluster.isPrimary) {
  process.on("message", ({ workers, update }: { workers: number; update: object }) => {
    let left = workers;
    cluster.on("listening", (worker, { port }) => {
      worker.send({ update });
      left -= 1;
      if (left === 0) process.send?.({ port });
    });
    for (let n = 0; n < workers; n++) cluster.fork();
  });
  process.on("disconnect", () => process.exit(0));
} else {
  const echo = new Echo();
  process.on("message", (message: { update: object }) => {
    echo.update = message.update;
  });
}
