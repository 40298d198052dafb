import type { HistoryQuestion, PlayerHistoryQuestion } from "../journal/harbor-history.ts";
import { checkChain } from "./chain-check.ts";
import { copyDatabase } from "./copies.ts";
import { personKept } from "./person-kept.ts";
import { playerHistory } from "./player-history.ts";
import { roomHistory, snapshotAt } from "./room-history.ts";

export type HistoryJob = { readonly file: string } & (
  | { readonly do: "room"; readonly question: HistoryQuestion }
  | { readonly do: "player"; readonly question: PlayerHistoryQuestion }
  | { readonly do: "snapshot"; readonly seq: number }
  | { readonly do: "copy"; readonly to: string; readonly withSecret: boolean }
  | { readonly do: "person"; readonly who: string }
  | { readonly do: "check" }
);

/** Carries out one job, in a thread of its own. */
export default function carryOut(job: HistoryJob): unknown {
  switch (job.do) {
    case "room":
      return roomHistory(job.file, job.question);
    case "player":
      return playerHistory(job.file, job.question);
    case "snapshot":
      return snapshotAt(job.file, job.seq);
    case "copy":
      return copyDatabase(job.file, job.to, job);
    case "person":
      return personKept(job.file, job.who);
    case "check":
      return checkChain(job.file);
  }
}
