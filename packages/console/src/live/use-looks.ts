import { useEffect, useRef, useState } from "react";
import { wordsOf } from "../parts/words.ts";
import { store } from "./use-live.ts";

const LOOK_MS = 2_000;

/**
 * Asks something again and again while it is on screen, and at once after whatever is done from this page. The last
 * answer stays when the next fails.
 */
export function useLooks<T>(
  about: string,
  look: () => Promise<T>,
  everyMs = LOOK_MS,
): { answer: T | undefined; fault: string | undefined } {
  const [answer, setAnswer] = useState<T>();
  const [fault, setFault] = useState<string>();
  const asking = useRef(look);
  asking.current = look;
  // biome-ignore lint/correctness/useExhaustiveDependencies: what is asked changes with what it is about.
  useEffect(() => {
    let isOver = false;
    const once = async () => {
      try {
        const found = await asking.current();
        if (isOver) return;
        setAnswer(() => found);
        setFault(undefined);
      } catch (error) {
        if (!isOver) setFault(wordsOf(error));
      }
    };
    void once();
    const timer = setInterval(() => void once(), everyMs);
    const forget = store.onAction(() => void once());
    return () => {
      forget();
      isOver = true;
      clearInterval(timer);
    };
  }, [about]);
  return { answer, fault };
}
