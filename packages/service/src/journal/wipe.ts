import type Database from "better-sqlite3";

const AT_ONCE = 16 * 1_048_576;

/**
 * Writes over all pages of a file that hold nothing any more: what was deleted long ago stands in them still, such as a
 * snapshot that a newer one has replaced.
 */
export function wipeFreePages(sqlite: Database.Database): void {
  const figure = (name: string) => sqlite.pragma(name, { simple: true }) as number;
  const pageSize = figure("page_size");
  sqlite.exec("CREATE TABLE wiping (zeros BLOB)");
  const fill = sqlite.prepare("INSERT INTO wiping VALUES (zeroblob(?))");
  for (let pages = figure("freelist_count"); pages > 0; pages = figure("freelist_count")) {
    fill.run(Math.min(pages * pageSize, AT_ONCE));
  }
  sqlite.exec("DROP TABLE wiping");
}
