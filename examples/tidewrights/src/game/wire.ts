/** What a Tidewrights client and server say to each other: one JSON object a line, over TCP. */
export type ClientLine =
  /** First line: the boarding pass. */
  | { readonly pass: string }
  /** Lay a stone of this weight, 1 to 9, on the crew's breakwater. */
  | { readonly stone: number };

export type ServerLine =
  | {
      readonly boarded: { readonly player: string; readonly name: string; readonly crew: Crew; readonly level: string };
    }
  /** Looks on: what follows comes so much later than to the crews. */
  | { readonly watching: { readonly name: string; readonly level: string; readonly behindMs: number } }
  | { readonly refused: { readonly code: string; readonly detail: string } }
  /** Everybody is aboard; the tide comes in after so many milliseconds. */
  | { readonly tide: { readonly inMs: number; readonly players: readonly string[] } }
  | { readonly walls: Readonly<Record<Crew, number>> }
  | { readonly over: { readonly winner: Crew | "nobody"; readonly walls: Readonly<Record<Crew, number>> } };

export type Crew = "gulls" | "terns";

/** Crews alternate by place, so that they differ by one at most. */
export const crewOf = (place: number): Crew => (place % 2 === 0 ? "gulls" : "terns");
