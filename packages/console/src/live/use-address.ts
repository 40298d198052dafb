import { useCallback } from "react";
import { useSearchParams } from "react-router";

/** One value that the address holds, so that a page can be shared as it is; empty when it holds none. */
export function useInAddress(name: string): [value: string, set: (value: string) => void] {
  const [params, setParams] = useSearchParams();
  const set = useCallback(
    (value: string) =>
      setParams(
        (before) => {
          const next = new URLSearchParams(before);
          if (value === "") next.delete(name);
          else next.set(name, value);
          return next;
        },
        // What is opened can be gone back from; what is typed cannot, letter by letter.
        { replace: name !== OPEN },
      ),
    [name, setParams],
  );
  return [params.get(name) ?? "", set];
}

const OPEN = "open";

/** What is open beside the list: an id, or nothing. */
export function useOpen(): { open: string | undefined; choose: (id: string) => void; close: () => void } {
  const [open, set] = useInAddress(OPEN);
  const close = useCallback(() => set(""), [set]);
  return { open: open === "" ? undefined : open, choose: set, close };
}

/** The address of something that is open in an area. */
export const addressOf = (area: string, id: string): string => `/${area}?${OPEN}=${encodeURIComponent(id)}`;
