import { useSyncExternalStore } from "react";

const listeners = new Set<() => void>();
let nowMs = Date.now();
let timer: ReturnType<typeof setInterval> | undefined;

/** One clock for the whole page, which goes while somebody looks at it. */
function subscribe(changed: () => void): () => void {
  listeners.add(changed);
  timer ??= setInterval(() => {
    nowMs = Date.now();
    for (const listener of listeners) listener();
  }, 1_000);
  return () => {
    listeners.delete(changed);
    if (listeners.size > 0) return;
    clearInterval(timer);
    timer = undefined;
  };
}

function getNow(): number {
  if (timer === undefined) nowMs = Date.now();
  return nowMs;
}

/** The time, each second; for what is shown as "4 s ago". */
export const useNow = (): number => useSyncExternalStore(subscribe, getNow);
