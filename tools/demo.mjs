import { prepare } from "./prepare.mjs";
import { become, node } from "./run.mjs";

await prepare();
await become(node, ["examples/tidewrights/dist/demo/main.js", ...process.argv.slice(2)]);
