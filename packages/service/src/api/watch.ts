import { PassThrough } from "node:stream";
import type { OperatorRoutes, WatchMessage } from "@yellow-harbor/protocol";
import { isStillIn } from "./access.ts";
import type { ApiParts } from "./parts.ts";
import type { Handler } from "./serve-routes.ts";
import { operatorOf } from "./who.ts";

// A watcher that reads this far behind is let go of; it connects again and gets a fresh state.
const UNREAD_BYTES_MAX = 8_388_608;
const HEARTBEAT_MS = 10_000;

/** Everything as it happens, as server-sent events (HTML Living Standard, section 9.2). */
export const watchHandler =
  ({ watchers, access }: ApiParts): Handler<OperatorRoutes["watch"]> =>
  ({ request, reply }) => {
    const caller = operatorOf(request);
    const stream = new PassThrough({ highWaterMark: 65_536 });
    const send = (text: string) => {
      stream.write(text);
      if (stream.writableLength > UNREAD_BYTES_MAX) stream.destroy();
    };
    const stop = watchers.watch({
      say: (message: WatchMessage) => send(`data: ${JSON.stringify(message)}\n\n`),
      end: () => stream.end(),
    });
    // A comment now and then lets both sides notice a connection that is gone.
    const heartbeat = setInterval(() => {
      // A key that was revoked, or a session that has ended, watches no longer.
      if (caller !== undefined && !isStillIn(caller, access)) stream.end();
      else send(": heartbeat\n\n");
    }, HEARTBEAT_MS);
    const end = () => {
      clearInterval(heartbeat);
      stop();
    };
    stream.once("close", end);
    reply.raw.once("close", () => stream.destroy());
    return reply.type("text/event-stream").header("cache-control", "no-store").send(stream);
  };
