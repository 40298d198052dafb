import { execFile } from "node:child_process";
import type { Logger } from "pino";
import type { FromAgent } from "./frames.ts";

const LOOK_EVERY_MS = 5_000;
/** What does not answer within this is ended, and asked again. */
const LOOK_MAX_MS = 4_000;
/** Told when the command does not say how long. */
const WITHIN_S = 30;
const WHY_MAX = 300;

type Notice = Extract<FromAgent, { say: "notice" }>;

/**
 * Asks a command of the user's own whether this machine is about to be taken away: it exits with 0 when it is, and may print
 * within how many seconds, and why. Asked until it says so once.
 */
export function watchForNotice(
  command: string,
  { log, noticed, everyMs = LOOK_EVERY_MS }: { log: Logger; noticed: (notice: Notice) => void; everyMs?: number },
): () => void {
  let isAsking = false;
  const look = () => {
    if (isAsking) return;
    isAsking = true;
    execFile("/bin/sh", ["-c", command], { timeout: LOOK_MAX_MS, maxBuffer: 65_536 }, (error, out) => {
      isAsking = false;
      if (error !== null) return;
      clearInterval(timer);
      const notice = noticeOf(out);
      log.warn(notice, "this machine is about to be taken away; it is drained");
      noticed(notice);
    });
  };
  const timer = setInterval(look, everyMs);
  look();
  return () => clearInterval(timer);
}

/** Seconds first, then why; half a minute when nothing is said. */
export function noticeOf(out: string): Notice {
  const [, seconds, rest = ""] = /^\s*(\d{1,5})?\s*(.*)/.exec(out.split("\n")[0] ?? "") ?? [];
  const withinMs = Math.min(86_400, Number(seconds ?? WITHIN_S)) * 1_000;
  const why = rest.trim().slice(0, WHY_MAX);
  return { say: "notice", withinMs, ...(why !== "" && { why }) };
}
