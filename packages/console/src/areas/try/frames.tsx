import { ArrowDownLeft, ArrowUpRight } from "lucide-react";
import type { SeenFrame } from "./slow-socket.ts";

/** What goes over the wire, the newest first; each opens to the whole of it. */
export function Frames({ frames }: { frames: readonly SeenFrame[] }) {
  if (frames.length === 0) return <p className="text-xs opacity-80">Nothing went by yet.</p>;
  return (
    <ol className="max-h-56 space-y-0.5 overflow-y-auto text-xs">
      {[...frames].reverse().map(({ number, way, atMs, text }) => (
        <li key={number}>
          <details>
            <summary className="flex cursor-pointer items-center gap-1.5">
              {way === "out" ? (
                <ArrowUpRight size={12} aria-label="sent" className="shrink-0 text-info" />
              ) : (
                <ArrowDownLeft size={12} aria-label="received" className="shrink-0 text-success" />
              )}
              <time className="font-mono opacity-70">{new Date(atMs).toLocaleTimeString("en-GB")}</time>
              <span className="truncate">{gistOf(text)}</span>
            </summary>
            <pre className="max-h-48 overflow-auto whitespace-pre-wrap break-all bg-base-100 p-2 font-mono">
              {pretty(text)}
            </pre>
          </details>
        </li>
      ))}
    </ol>
  );
}

/** What a frame is, in a few words. */
function gistOf(text: string): string {
  const { frame, scope, ask, event, problem, id } = parsed(text);
  const words = [frame, scope, ask, event?.kind, problem?.code, frame === "reply" ? `of ${id}` : undefined];
  return words.filter((word) => word !== undefined).join(" ") || text.slice(0, 60);
}

interface Gist {
  readonly frame?: string;
  readonly ask?: string;
  readonly id?: number;
  readonly scope?: string;
  readonly event?: { readonly kind?: string };
  readonly problem?: { readonly code?: string };
}

function parsed(text: string): Gist {
  try {
    return JSON.parse(text) as Gist;
  } catch {
    return {};
  }
}

function pretty(text: string): string {
  try {
    return JSON.stringify(JSON.parse(text), null, 2);
  } catch {
    return text;
  }
}
