import { parentPort, workerData } from "node:worker_threads";
import { checkChain } from "./chain-check.ts";
import { copyDatabase } from "./copies.ts";
import type { PastQuestion } from "./journal.ts";
import { lookBack, snapshotAt } from "./look-back.ts";

export type ArchiveJob = { readonly file: string } & (
  | { readonly do: "past"; readonly question: PastQuestion }
  | { readonly do: "snapshot"; readonly seq: number }
  | { readonly do: "copy"; readonly to: string }
  | { readonly do: "check" }
);

export type ArchiveAnswer = { readonly value: unknown } | { readonly failure: string };

parentPort?.postMessage(answer(workerData as ArchiveJob));

function answer(job: ArchiveJob): ArchiveAnswer {
  try {
    return { value: carryOut(job) };
  } catch (error) {
    return { failure: String((error as Error).message) };
  }
}

function carryOut(job: ArchiveJob): unknown {
  switch (job.do) {
    case "past":
      return lookBack(job.file, job.question);
    case "snapshot":
      return snapshotAt(job.file, job.seq);
    case "copy":
      return copyDatabase(job.file, job.to);
    case "check":
      return checkChain(job.file);
  }
}
