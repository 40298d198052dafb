import { prepare } from "./prepare.mjs";
import { become, node } from "./run.mjs";

await prepare();
await become(node, ["trials/dist/soak.js", ...process.argv.slice(2)]);
