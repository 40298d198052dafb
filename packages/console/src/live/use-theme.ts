import { useSyncExternalStore } from "react";

export type Theme = "harbor-day" | "harbor-dusk";

const subscribe = (changed: () => void) => {
  const watching = new MutationObserver(changed);
  watching.observe(document.documentElement, { attributeFilter: ["data-theme"] });
  return () => watching.disconnect();
};

/** The theme that the page is shown in, for what is drawn without style sheets. */
export const useTheme = (): Theme =>
  useSyncExternalStore(subscribe, () =>
    document.documentElement.dataset.theme === "harbor-dusk" ? "harbor-dusk" : "harbor-day",
  );
