import { SeriesFigures, type SeriesPoint } from "@yellow-harbor/protocol";
import Database from "better-sqlite3";
import { and, asc, eq, gt, lte, sql } from "drizzle-orm";
import { type BetterSQLite3Database, drizzle } from "drizzle-orm/better-sqlite3";
import { integer, primaryKey, sqliteTable, text } from "drizzle-orm/sqlite-core";
import { ownFile } from "../journal/data-folder.ts";

const pointTable = sqliteTable(
  "points",
  {
    /** Span of the point, in milliseconds. */
    everyMs: integer("every_ms").notNull(),
    atMs: integer("at_ms").notNull(),
    /** As JSON. */
    figures: text("figures").notNull(),
  },
  ({ everyMs, atMs }) => [primaryKey({ columns: [everyMs, atMs] })],
);

/**
 * Figures over time, in a file of their own: nothing depends on them, so they wait for no disk, and are in no backup. A file
 * that cannot be read is begun anew.
 */
export class SeriesStore {
  readonly #sqlite: Database.Database;
  readonly #db: BetterSQLite3Database;

  constructor(file: string) {
    if (file !== ":memory:") ownFile(file);
    this.#sqlite = new Database(file);
    this.#sqlite.pragma("journal_mode = WAL");
    this.#sqlite.pragma("synchronous = OFF");
    this.#db = drizzle(this.#sqlite);
    this.#db.run(
      sql`CREATE TABLE IF NOT EXISTS points (every_ms integer NOT NULL, at_ms integer NOT NULL, figures text NOT NULL, PRIMARY KEY (every_ms, at_ms)) WITHOUT ROWID`,
    );
  }

  put(everyMs: number, { atMs, ...figures }: SeriesPoint): void {
    const row = { everyMs, atMs, figures: JSON.stringify(figures) };
    this.#db.insert(pointTable).values(row).onConflictDoNothing().run();
  }

  /** Points after a time, up to another, the oldest first. What a former version has kept in another form is left out. */
  read(everyMs: number, afterMs: number, upToMs = Number.MAX_SAFE_INTEGER): SeriesPoint[] {
    const { atMs } = pointTable;
    const rows = this.#db
      .select()
      .from(pointTable)
      .where(and(eq(pointTable.everyMs, everyMs), gt(atMs, afterMs), lte(atMs, upToMs)))
      .orderBy(asc(atMs))
      .all();
    return rows.flatMap((row) => {
      const figures = SeriesFigures.safeParse(JSON.parse(row.figures));
      return figures.success ? [{ ...figures.data, atMs: row.atMs }] : [];
    });
  }

  /** Removes points up to a time. */
  trim(everyMs: number, upToMs: number): void {
    this.#db
      .delete(pointTable)
      .where(and(eq(pointTable.everyMs, everyMs), lte(pointTable.atMs, upToMs)))
      .run();
  }

  close(): void {
    this.#sqlite.close();
  }
}
