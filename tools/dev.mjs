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
// Each leads a group of its own: the compiler and the watcher start processes that must end with them.
const start = (command, args, cwd = ROOT) => spawn(command, args, { cwd, stdio: "inherit", detached: true });
const children = [
  start(bin("tsc"), ["-b", "--watch", "--preserveWatchOutput"]),
  start(node, [...watched, "--watch-preserve-output", ...yh]),
  start(join(console, "node_modules/.bin/vite"), ["--clearScreen", "false"], console),
];
say("console with reload: http://127.0.0.1:7421   service: http://127.0.0.1:7420   (Ctrl-C ends both)");

const end = () => {
  for (const { pid } of children) {
    try {
      process.kill(-pid, "SIGTERM");
    } catch {
      // It has ended already.
    }
  }
};
for (const signal of ["SIGINT", "SIGTERM"]) process.on(signal, end);
await Promise.race(children.map((child) => new Promise((resolve) => child.once("exit", resolve))));
end();
