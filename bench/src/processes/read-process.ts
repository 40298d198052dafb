// Reads what a start of the service has to read, and does nothing with it.
import Database from "better-sqlite3";

const sqlite = new Database(process.argv[2], { readonly: true });
const snapshot = sqlite.prepare("SELECT seq, body FROM snapshots ORDER BY seq DESC LIMIT 1").get() as {
  seq: number;
  body: string;
};
const tail = sqlite.prepare("SELECT seq, at_ms, kind, body FROM journal WHERE seq > ? ORDER BY seq").all(snapshot.seq);
const bytes = (tail as { body: string }[]).reduce((sum, { body }) => sum + body.length, snapshot.body.length);
sqlite.close();
process.stdout.write(String(bytes));
