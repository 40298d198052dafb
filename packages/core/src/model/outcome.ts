import type { ScoreRow, SideName, SideStanding, Standing } from "@yellow-harbor/protocol";
import { type Refusal, refuse } from "./decision.ts";
import { rank } from "./rank.ts";

/** How a run ended, as it was said. */
export interface ReportedOutcome {
  readonly standings: readonly ScoreRow[];
  readonly sides?: Readonly<Record<SideName, number>> | undefined;
  readonly payload?: unknown;
  readonly note?: string | undefined;
}

/** The same with ranks. */
export interface Outcome {
  readonly standings: readonly Standing[];
  readonly sides?: readonly SideStanding[];
  readonly payload?: unknown;
  readonly note?: string;
}

export function outcomeOf({ standings, sides, payload, note }: ReportedOutcome): Outcome {
  const verdicts = new Map(standings.map(({ player, verdict }) => [player, verdict]));
  const ranked = rank(standings.map(({ player, score }) => ({ of: player, score })));
  return {
    standings: ranked.map(({ of: player, ...row }) => {
      const verdict = verdicts.get(player);
      return { player, ...row, ...(verdict !== undefined && { verdict }) };
    }),
    ...(sides && {
      sides: rank(Object.entries(sides).map(([of, score]) => ({ of, score }))).map(({ of: side, ...row }) => ({
        side,
        ...row,
      })),
    }),
    ...(payload !== undefined && { payload }),
    ...(note !== undefined && { note }),
  };
}

interface Expected {
  readonly has: (player: string) => boolean;
  /** What the players are of. */
  readonly of: "room" | "match";
  readonly sides: readonly SideName[];
}

/** Why an outcome cannot be one of a run with these players and sides. */
export function outcomeRefusal(
  { standings, sides = {} }: ReportedOutcome,
  { has, of, sides: known }: Expected,
): Refusal | undefined {
  const stranger = standings.findIndex((row) => !has(row.player));
  if (stranger >= 0) {
    const path = of === "room" ? `standings.${stranger}.player` : `standings[${stranger}].player`;
    const fields = [{ path, message: `expected a player of the ${of}` }];
    return refuse("request-invalid", `The standings name a player who is not of this ${of}.`, { fields });
  }
  if (new Set(standings.map((row) => row.player)).size < standings.length) {
    return refuse("request-invalid", "The standings name a player twice; give each player one row.");
  }
  const strange = Object.keys(sides).find((side) => !known.includes(side));
  if (strange === undefined) return undefined;
  const expected = known.length === 0 ? "the room has none" : `the room has ${known.join(", ")}`;
  return refuse("side-unknown", `The result scores side ${strange}; ${expected}.`, { accepted: [...known] });
}

/** Whether an outcome is the one that a run has already: whoever did not hear the answer says it once more. */
export function isSaidAgain(said: ReportedOutcome, known: Outcome | undefined): boolean {
  if (known === undefined) return false;
  const textOf = ({ standings, sides = [], payload, note }: Outcome) =>
    JSON.stringify([standings, sides, payload ?? null, note ?? null]);
  return textOf(outcomeOf(said)) === textOf(known);
}
