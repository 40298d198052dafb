import { parseArgs } from "node:util";
import { TideServer } from "./tide-server.ts";

const { values } = parseArgs({ options: { "tide-ms": { type: "string", default: "2000" } } });

const say = (text: string) => console.log(`${new Date().toISOString()} ${text}`);
const server = new TideServer({ tideMs: Number(values["tide-ms"]), say });

for (const signal of ["SIGTERM", "SIGINT"] as const) process.once(signal, () => void server.stop(`got ${signal}`));

await server.start();
