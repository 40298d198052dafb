// The ceiling of `commands`.
import { Echo } from "./echo.ts";

const echo = new Echo();

process.on("message", (message: { update: object }) => {
  echo.update = message.update;
  process.send?.({ port: (echo.server.address() as { port: number }).port });
});
