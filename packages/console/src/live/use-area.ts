import { useSyncExternalStore } from "react";

const subscribe = (changed: () => void) => {
  addEventListener("hashchange", changed);
  return () => removeEventListener("hashchange", changed);
};

/** The area that the page's address names, such as `#access`. */
export const useArea = (): string => useSyncExternalStore(subscribe, () => location.hash);
