interface Page {
  readonly visibilityState: string;
  addEventListener(type: "visibilitychange", listener: () => void): void;
  removeEventListener(type: "visibilitychange", listener: () => void): void;
}

const isHidden = (page: Page) => page.visibilityState === "hidden";

/** Whether the game's page is in the background now; false where there is no page. */
export function isInBackground(): boolean {
  const page = (globalThis as { document?: Page }).document;
  return page !== undefined && isHidden(page);
}

/**
 * Follows whether the page is in front. Browsers hardly run pages in the background, so the others have to know that
 * one may be slow; elsewhere there is no page, and the game says it itself. Returns how to stop.
 */
export function followAttention(changed: (background: boolean) => void): () => void {
  const page = (globalThis as { document?: Page }).document;
  if (page === undefined) return () => undefined;
  const listener = () => changed(isHidden(page));
  page.addEventListener("visibilitychange", listener);
  return () => page.removeEventListener("visibilitychange", listener);
}
