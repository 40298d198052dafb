import { prepare } from "./prepare.mjs";
import { become, node } from "./run.mjs";

await prepare();
await become(node, ["bench/dist/main.js", ...process.argv.slice(2)]);
