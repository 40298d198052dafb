import { parentPort, workerData } from "node:worker_threads";
import { copyDatabase } from "./copies.ts";
import type { PastQuestion } from "./journal.ts";
import { lookBack } from "./look-back.ts";

export type ArchiveJob = { readonly file: string } & (
  | { readonly do: "past"; readonly question: PastQuestion }
  | { readonly do: "copy"; readonly to: string }
);

export type ArchiveAnswer = { readonly value: unknown } | { readonly failure: string };

parentPort?.postMessage(answer(workerData as ArchiveJob));

function answer(job: ArchiveJob): ArchiveAnswer {
  try {
    return { value: job.do === "past" ? lookBack(job.file, job.question) : copyDatabase(job.file, job.to) };
  } catch (error) {
    return { failure: String((error as Error).message) };
  }
}
