// The ceiling of `warm-start`: one round trip over a bare WebSocket, with one row committed in between.
import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import Database from "better-sqlite3";
import { WebSocketServer } from "ws";

const folder = mkdtempSync(join(tmpdir(), "yellow-harbor-trip-"));
process.on("exit", () => rmSync(folder, { recursive: true, force: true }));
process.on("SIGTERM", () => process.exit(0));
const sqlite = new Database(join(folder, "plain.sqlite"));
sqlite.pragma("journal_mode = WAL");
sqlite.pragma("synchronous = FULL");
sqlite.exec("CREATE TABLE journal (seq INTEGER PRIMARY KEY, at_ms INTEGER NOT NULL, body TEXT NOT NULL)");
const insert = sqlite.prepare("INSERT INTO journal (at_ms, body) VALUES (?, ?)");

const server = new WebSocketServer({ port: 0, host: "127.0.0.1", perMessageDeflate: false });
server.on("connection", (socket) => {
  socket.on("message", (bytes) => {
    insert.run(Date.now(), String(bytes));
    socket.send(bytes);
  });
});

process.on("message", () => process.send?.({ port: (server.address() as { port: number }).port }));
