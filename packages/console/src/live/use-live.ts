import { useEffect, useState, useSyncExternalStore } from "react";
import { HarborStore, type Live } from "./harbor-store.ts";

export const store = new HarborStore();

/** The service as it is now. */
export function useLive(): Live {
  useEffect(() => store.start(), []);
  return useSyncExternalStore(store.subscribe, store.getLive);
}

/** The time, each second; for what is shown as "4 s ago". */
export function useNow(): number {
  const [now, setNow] = useState(Date.now);
  useEffect(() => {
    const timer = setInterval(() => setNow(Date.now()), 1000);
    return () => clearInterval(timer);
  }, []);
  return now;
}
