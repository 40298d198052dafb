import { Plug, PlugZap, Unplug } from "lucide-react";
import type { Connection } from "../live/harbor-store.ts";
import { span } from "../parts/time.ts";

/** Whether the page is live, in a word, a shape and a colour. */
export function Vitals({ connection, now }: { connection: Connection; now: number }) {
  const line = "flex items-center gap-2 whitespace-nowrap text-sm";
  if (connection.state === "live") {
    return (
      <output className={`${line} text-success`}>
        <PlugZap size={16} aria-hidden /> live
      </output>
    );
  }
  if (connection.state === "lost") {
    return (
      <output className={`${line} text-error`}>
        <Unplug size={16} aria-hidden /> service lost {span(now - connection.sinceMs)} ago, next try in{" "}
        {span(connection.retryAtMs - now)}
      </output>
    );
  }
  return (
    <output className={`${line} opacity-70`}>
      <Plug size={16} aria-hidden /> {connection.state === "connecting" ? "connecting" : "log in first"}
    </output>
  );
}
