/** What bots did and what came of it. Only ever counted up, but for `connected`. */
export interface Tally {
  connected: number;
  hellos: number;
  roomsOpened: number;
  roomsJoined: number;
  searched: number;
  matched: number;
  started: number;
  boarded: number;
  results: number;
  returned: number;
  relayed: number;
  heard: number;
  cut: number;
  resumed: number;
  rudeQuits: number;
  goodbyes: number;
  /** Refusals by code: a bot's daily life. */
  readonly refused: Record<string, number>;
  /** What should never happen, by message. */
  readonly faults: Record<string, number>;
}

export const newTally = (): Tally => ({
  connected: 0,
  hellos: 0,
  roomsOpened: 0,
  roomsJoined: 0,
  started: 0,
  boarded: 0,
  results: 0,
  returned: 0,
  searched: 0,
  matched: 0,
  relayed: 0,
  heard: 0,
  cut: 0,
  resumed: 0,
  rudeQuits: 0,
  goodbyes: 0,
  refused: {},
  faults: {},
});

export function count(rows: Record<string, number>, key: string): void {
  rows[key] = (rows[key] ?? 0) + 1;
}

/** The tally in lines. */
export function tallyLines(tally: Tally): string[] {
  const { connected, hellos, goodbyes, rudeQuits, roomsOpened, roomsJoined } = tally;
  const { searched, matched } = tally;
  const { started, boarded, results, returned, relayed, heard, cut, resumed } = tally;
  const rows = (counts: Record<string, number>) =>
    Object.entries(counts)
      .sort(([, a], [, b]) => b - a)
      .map(([what, times]) => `${what} ${times}`)
      .join(", ") || "none";
  return [
    `players   ${connected} connected, ${hellos} hellos, ${goodbyes} goodbyes, ${rudeQuits} gone without one`,
    `rooms     ${roomsOpened} opened, ${roomsJoined} joined`,
    `searches  ${searched} begun, ${matched} matched`,
    `runs      ${started} started, ${boarded} boarded, ${results} results seen, ${returned} failed`,
    `messages  ${relayed} relayed, ${heard} heard`,
    `wire      ${cut} connections cut, ${resumed} resumed`,
    `refused   ${rows(tally.refused)}`,
    `faults    ${rows(tally.faults)}`,
  ];
}
