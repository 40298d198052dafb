import { prepare } from "./prepare.mjs";
import { become, node } from "./run.mjs";

await prepare();
await become(node, ["packages/cli/bin/yh.js", ...process.argv.slice(2)]);
