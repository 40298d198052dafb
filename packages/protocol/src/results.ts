import { z } from "zod";
import { AtMs } from "./basics.ts";
import { ConfigName, PlayerId, RunId, SideName } from "./ids.ts";
import { PlayerJson } from "./json-value.ts";
import { CAPACITY_MAX, RESULT_PAYLOAD_MAX_BYTES } from "./limits.ts";
import { ChatMessage, utf8Length } from "./text.ts";

/** What became of a player in a run. */
export const Verdict = z.enum(["finished", "left", "kicked"]).meta({
  id: "Verdict",
  description: "Played to the end; left before it; was removed from it. Finished when absent.",
});
export type Verdict = z.infer<typeof Verdict>;

const Score = z.number();

const NO_ROWS = "expected a row for at least one player; without scores give each who finished the same";

export const ScoreRows = z
  .array(z.strictObject({ player: PlayerId, score: Score, verdict: Verdict.optional() }))
  .min(1, NO_ROWS)
  .max(CAPACITY_MAX)
  .meta({ description: "Scores, higher is better, in any order; the service ranks them, ties share a rank." });
export type ScoreRow = z.infer<typeof ScoreRows>[number];

/** How a run ended, as whoever decides it says so. */
export const outcomeFields = {
  standings: ScoreRows,
  sides: z
    .record(SideName, Score)
    .refine((all) => Object.keys(all).length <= 16, "expected at most 16 sides")
    .optional()
    .meta({ description: "A score for each side, where the room has sides; higher is better." }),
  payload: PlayerJson.refine(
    (value) => value === undefined || utf8Length(JSON.stringify(value)) <= RESULT_PAYLOAD_MAX_BYTES,
    `expected at most ${RESULT_PAYLOAD_MAX_BYTES} bytes of JSON`,
  )
    .optional()
    .meta({
      description: `Anything else the game keeps of the run, at most ${RESULT_PAYLOAD_MAX_BYTES} bytes of JSON. For the back end; shown to members where the room kind says so.`,
    }),
  note: ChatMessage.optional(),
};

export const Standing = z
  .object({
    player: PlayerId,
    rank: z.int().min(1),
    score: z.number(),
    verdict: Verdict.optional(),
  })
  .meta({ id: "Standing", description: "A player's rank; ties share a rank." });
export type Standing = z.infer<typeof Standing>;

export const SideStanding = z
  .object({ side: SideName, rank: z.int().min(1), score: z.number() })
  .meta({ id: "SideStanding", description: "A side's rank; ties share a rank." });
export type SideStanding = z.infer<typeof SideStanding>;

export const ResultView = z
  .object({
    run: RunId,
    level: ConfigName,
    atMs: AtMs,
    standings: z.array(Standing),
    sides: z.array(SideStanding).optional().meta({ description: "Where sides were scored." }),
    payload: z.unknown().optional().meta({ description: "What else is kept of the run, where members are shown it." }),
    note: z.string().optional(),
    void: z
      .literal(true)
      .optional()
      .meta({ description: "The run was lost: there are no standings, the note says why." }),
  })
  .meta({ id: "Result", description: "How a run ended, decided once by the authority of the room kind." });
export type ResultView = z.infer<typeof ResultView>;

export const SetResult = z.strictObject(outcomeFields).meta({ id: "SetResult" });
export type SetResult = z.infer<typeof SetResult>;

export const RoomResult = z
  .object({ result: ResultView.optional().meta({ description: "Absent while no run of the room has had a result." }) })
  .meta({ id: "RoomResult" });
export type RoomResult = z.infer<typeof RoomResult>;

const Wins = z.object({
  rank: z.int().min(1),
  wins: z.int(),
  side: SideName.optional().meta({ description: "Where the room has sides: the one that its players stand on now." }),
  player: PlayerId.optional().meta({ description: "Where it has none." }),
});

export const SeriesView = z
  .object({
    played: z.int().meta({ description: "Runs that had a result." }),
    bestOf: z.int(),
    over: z.boolean().meta({ description: "Decided, or all runs played: the next run begins a new series." }),
    wins: z.array(Wins).meta({ description: "Who has won how many runs alone; only those who have won." }),
    totals: z.array(Standing).meta({ description: "Scores of the players over all runs together." }),
  })
  .meta({ id: "Series", description: "The runs of a room counted together." });
export type SeriesView = z.infer<typeof SeriesView>;
