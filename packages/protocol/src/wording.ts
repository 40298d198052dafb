import type { SeriesView } from "./results.ts";
import type { TravelView } from "./travel.ts";
import type { Phase, RoomView } from "./views.ts";

const irregular: Readonly<Record<string, string>> = { party: "parties", match: "matches", entry: "entries" };

/** A number with its noun: `1 ticket`, `2 tickets`. A noun of several words is counted by its last: `1 other ticket`. */
export const counted = (count: number, noun: string): string => `${count} ${nounFor(count, noun)}`;

/** The noun alone, as it goes with a number. */
export function nounFor(count: number, noun: string): string {
  if (count === 1) return noun;
  const last = noun.slice(noun.lastIndexOf(" ") + 1);
  return `${noun.slice(0, noun.length - last.length)}${irregular[last] ?? `${last}s`}`;
}

/** What a room does in a phase, after its name: `Room K7RDM shows results`. */
export const phaseWords: Readonly<Record<Phase, string>> = {
  gathering: "is gathering",
  counting: "is counting down",
  travelling: "is travelling",
  playing: "is playing",
  results: "shows results",
  closed: "is closed",
};

/** What a room waits for, in a few words: never empty. */
export function waitsFor(room: RoomView): string {
  const { phase, members, travel, missing } = room;
  if (phase === "closed") return "nothing";
  if (phase === "playing") return "the result";
  if (phase === "counting") return "the countdown";
  if (phase === "results") return "the result to be seen";
  if (Object.keys(members).length === 0) return "somebody to come in";
  if (travel?.step === "preparing") return preparing(room);
  if (travel) return arriving(travel, members);
  if (phase === "travelling") return "the run to begin";
  return missing.length === 0 ? "somebody to start it" : missing.map((row) => row.text).join("; ");
}

function preparing({ travel, members }: RoomView): string {
  if (travel?.by === "dedicated") return "an instance";
  return travel?.by === "relayed"
    ? "relaying"
    : `${members[travel?.player ?? ""]?.name ?? "the host"} to run the world`;
}

function arriving({ waitingFor, travellers }: TravelView, members: RoomView["members"]): string {
  const names = (players: readonly string[]) => players.map((player) => members[player]?.name ?? player).join(", ");
  if (waitingFor.length > 0) return `${names(waitingFor)} to arrive`;
  const missing = Object.keys(travellers).filter((player) => !travellers[player]?.arrived);
  return missing.length === 0 ? "the run to begin" : `its deadline: ${names(missing)} may still come`;
}

/** A moment as people read it everywhere, to the minute: 2026-11-27T18:00Z. */
export const timeText = (atMs: number): string => `${new Date(atMs).toISOString().slice(0, 16)}Z`;

/** A series in words: "best of 3, 2 played; wins: ebb 1, flood 1". */
export function seriesText({ played, bestOf, over, wins }: SeriesView, nameOf: (player: string) => string): string {
  const won = wins.map(({ side, player, wins: many }) => `${side ?? nameOf(player ?? "")} ${many}`).join(", ");
  const state = over ? "over" : `${played} played`;
  return `best of ${bestOf}, ${state}; ${won === "" ? "nobody has won a run yet" : `wins: ${won}`}`;
}
