import { useEffect, useState, useSyncExternalStore } from "react";
import { HarborStore, type Live } from "./harbor-store.ts";

export const store = new HarborStore();

/** The service as it is now, followed for as long as the page is there: for the page as a whole, once. */
export function useLive(): Live {
  useEffect(() => store.start(), []);
  return useSyncExternalStore(store.subscribe, store.getLive);
}

/** Who looks, for any part of the page. */
export const useWho = (): Live["who"] => useSyncExternalStore(store.subscribe, () => store.getLive().who);

/** The time, each second; for what is shown as "4 s ago". */
export function useNow(): number {
  const [now, setNow] = useState(Date.now);
  useEffect(() => {
    const timer = setInterval(() => setNow(Date.now()), 1000);
    return () => clearInterval(timer);
  }, []);
  return now;
}
