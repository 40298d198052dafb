import type { HarborView } from "@yellow-harbor/protocol";
import { useEffect, useSyncExternalStore } from "react";
import { HarborStore, type Live } from "./harbor-store.ts";

export const store = new HarborStore();

/** Follows the service for as long as the page is there: for the page as a whole, once. */
export const useFollowing = (): void => useEffect(() => store.start(), []);

/** The service as it is now. */
export const useLive = (): Live => useSyncExternalStore(store.subscribe, store.getLive);

/** The state of the service, for what is shown only once there is one. */
export function useHarbor(): HarborView {
  const { state } = useLive();
  if (state === undefined) throw new Error("there is no state yet");
  return state;
}

/** Who looks, for any part of the page. */
export const useWho = (): Live["who"] => useSyncExternalStore(store.subscribe, () => store.getLive().who);
