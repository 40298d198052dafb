// The service and the console with reload: TypeScript is rebuilt as it changes, the service restarts, the page follows.
import { spawn } from "node:child_process";
import { join } from "node:path";
import { prepare } from "./prepare.mjs";
import { bin, node, ROOT, say } from "./run.mjs";

await prepare();
const watched = ["protocol", "core", "service", "client", "cli"].flatMap((name) => [
  "--watch-path",
  join(ROOT, "packages", name, "dist"),
]);
const yh = [
  join(ROOT, "packages/cli/bin/yh.js"),
  "serve",
  "--config",
  join(ROOT, "examples/tidewrights/harbor.yaml"),
  "--data",
  join(ROOT, "data/dev"),
];
const console = join(ROOT, "packages/console");
const children = [
  spawn(bin("tsc"), ["-b", "--watch", "--preserveWatchOutput"], { cwd: ROOT, stdio: "inherit" }),
  spawn(node, [...watched, "--watch-preserve-output", ...yh], { cwd: ROOT, stdio: "inherit" }),
  spawn(join(console, "node_modules/.bin/vite"), ["--clearScreen", "false"], { cwd: console, stdio: "inherit" }),
];
say("console with reload: http://127.0.0.1:7421   service: http://127.0.0.1:7420   (Ctrl-C ends both)");

const end = () => {
  for (const child of children) child.kill("SIGTERM");
};
for (const signal of ["SIGINT", "SIGTERM"]) process.on(signal, end);
await Promise.race(children.map((child) => new Promise((resolve) => child.once("exit", resolve))));
end();
