import { QueryClient, useQuery } from "@tanstack/react-query";
import { wordsOf } from "../parts/words.ts";
import { store } from "./use-live.ts";

const LOOK_MS = 2_000;

/** What was asked of the service beside the stream. Whatever is done from this page is looked at at once. */
export const looks = new QueryClient({
  defaultOptions: { queries: { retry: false, networkMode: "always", refetchOnWindowFocus: false } },
});
store.onAction(() => void looks.invalidateQueries());

/**
 * Asks something again and again while it is on screen, and at once after whatever is done from this page. The last
 * answer stays when the next fails.
 */
export function useLooks<T>(
  about: string,
  look: () => Promise<T>,
  everyMs = LOOK_MS,
): { answer: T | undefined; fault: string | undefined } {
  const { data, error } = useQuery({ queryKey: [about], queryFn: look, refetchInterval: everyMs });
  return { answer: data, fault: error === null ? undefined : wordsOf(error) };
}
