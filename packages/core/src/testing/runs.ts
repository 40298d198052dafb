import { inject } from "vitest";

declare module "vitest" {
  interface ProvidedContext {
    /** Share of the runs a property deserves that it gets: the configuration of the tests says it. */
    readonly runsShare: number;
  }
}

/** How often a property is tried, of the runs that it deserves. */
export const runs = (deserved: number): number => Math.max(10, Math.round(deserved * inject("runsShare")));
