import type { Canary } from "../model/builds/state.ts";

/** What a roll-out comes to now. */
export type Verdict =
  | { readonly do: "wait" }
  | { readonly do: "step"; readonly step: number; readonly share: number; readonly why: string }
  | { readonly do: "promote"; readonly why: string }
  | { readonly do: "roll-back"; readonly why: string };

export const shareOf = ({ steps, step }: Pick<Canary, "steps" | "step">): number => steps[step] ?? 1;

/**
 * Whether the next instance is one of the new version: as soon as fewer of them were launched, in this step, than its share
 * of all. Pure, so that the same launches give the same versions.
 */
export function isTurnOfCanary(canary: Canary): boolean {
  const { launched, othersLaunched } = canary;
  return launched < shareOf(canary) * (launched + othersLaunched + 1) - 1e-9;
}

/** Pure: the same counts give the same verdict. */
export function verdictOn(canary: Canary): Verdict {
  const { successes, failed, enough, maxFailures, step, steps, version } = canary;
  // Before enough has been seen, as many failures end it as the limit would let through of enough.
  const tried = Math.max(enough, successes + failed);
  const count = `${failed} of ${successes + failed} failed`;
  if (failed > maxFailures * tried) {
    const max = `${Math.round(maxFailures * 100)} % of ${tried}`;
    return { do: "roll-back", why: `${count} at ${percent(shareOf(canary))}; more than ${max} is too many` };
  }
  if (successes < enough) return { do: "wait" };
  const why = `${successes} went well and ${failed} failed at ${percent(shareOf(canary))}`;
  const next = step + 1;
  const share = steps[next];
  return share === undefined
    ? { do: "promote", why: `${why}: ${version} takes over` }
    : { do: "step", step: next, share, why };
}

export const percent = (share: number): string => `${Math.round(share * 100)} %`;
