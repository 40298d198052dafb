import { type Problem, problemTable } from "@yellow-harbor/protocol";

/** Whether the same may succeed later. A code that this client does not know yet goes by its HTTP status. */
export function mayRetry({ code, status }: Problem): boolean {
  return Object.hasOwn(problemTable, code) ? problemTable[code].retry === "later" : status >= 500;
}
