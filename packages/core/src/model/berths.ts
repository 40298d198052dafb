import type { ConfigName, PassId, PlayerId, RunId } from "@yellow-harbor/protocol";
import type { Berth } from "./berth.ts";
import { type DecisionContext, type Refusal, refuse } from "./decision.ts";

/** What a pass is shown for: the match of an instance, or a member's world. */
interface Kept {
  readonly run: RunId;
  readonly level: ConfigName;
  readonly berths: ReadonlyMap<PlayerId, Berth>;
}

interface Shown {
  readonly player: PlayerId;
  readonly pass: PassId;
  readonly run: RunId;
  /** What the pass says it is for; the run alone decides, and this says why it does not fit. */
  readonly level?: ConfigName | undefined;
}

/** Whether the berth of a shown pass may be filled; `repeated` when this very attempt has filled it already. */
export function checkBerth(
  kept: Kept | null,
  shown: Shown,
  attempt: string | undefined,
): "free" | "repeated" | Refusal {
  if (kept === null || kept.run !== shown.run) {
    if (kept !== null && shown.level !== undefined && shown.level !== kept.level) {
      const detail = `The pass is for level ${shown.level}, and this is ${kept.level}; the player has a new pass for it, or asks for one.`;
      return refuse("pass-other-level", detail);
    }
    return refuse("pass-expired", "The pass is for a run that is over; a new travel brings a new pass.");
  }
  const berth = kept.berths.get(shown.player);
  if (berth === undefined) {
    return refuse("berth-unknown", "No berth is kept for the player of this pass; it has left the room.");
  }
  if (berth.pass !== shown.pass) {
    return refuse("pass-replaced", `${berth.name} was given a newer pass; only that one works.`);
  }
  // The answer may have been lost on the way, with the service: the same boarding is answered the same again.
  if (berth.state === "taken" && attempt !== undefined && berth.attempt === attempt) return "repeated";
  if (berth.state === "reserved") return "free";
  return refuse("pass-used", `The pass of ${berth.name} was used already; a pass works once.`);
}

/**
 * Until when a pass counts that is given to one player while the others are on their way or there: as long as anybody
 * has from the address to the arrival, and where the address is not known yet, as long as that may take before it.
 */
export function passEndsMs(
  { rules, at }: Pick<DecisionContext, "rules" | "at">,
  travel: { readonly step: "preparing" | "boarding" } | undefined,
): number {
  return at + rules.travel.boardMs + (travel?.step === "preparing" ? rules.travel.prepareMs : 0);
}

/** Whether a berth, or its player, needs no new pass; `anew` for who has just come in and may have left one behind. */
export function isGood(
  berth: Berth | undefined,
  {
    anew,
    at,
    travel,
  }: { readonly anew: boolean; readonly at: number; readonly travel: { readonly deadlineMs: number } | undefined },
): boolean {
  if (berth === undefined) return false;
  if (berth.state !== "reserved") return !anew;
  return at < (berth.expiresAtMs ?? travel?.deadlineMs ?? 0);
}
