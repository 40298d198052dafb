import Database from "better-sqlite3";
import { ChainReader, NOTHING_YET } from "../journal/chain.ts";
import type { JournalRow } from "../journal/event-log.ts";

type StoredRow = JournalRow & { readonly chain: Buffer | null };

/**
 * Holds all that a journal keeps against its checksums: a start reads no further back than its newest snapshot. Returns
 * what is wrong, or undefined. Meanwhile the journal may go on, and what comes is not looked at.
 */
export function checkChain(file: string): string | undefined {
  const sqlite = new Database(file, { readonly: true, fileMustExist: true });
  try {
    const rows = sqlite.prepare("SELECT seq, at_ms AS atMs, kind, version, body, chain FROM journal ORDER BY seq");
    let reader: ChainReader | undefined;
    for (const row of rows.iterate() as IterableIterator<StoredRow>) {
      reader ??= new ChainReader(row.seq, row.seq === 1 ? NOTHING_YET : undefined);
      const wrong = reader.take(row, row.chain);
      if (wrong !== undefined) return wrong;
    }
    return reader?.end();
  } finally {
    sqlite.close();
  }
}
