import { spawn } from "node:child_process";
import { join } from "node:path";
import { afterEach, describe, expect, it } from "vitest";
import { endAll, startTestService } from "../packages/service/src/testing/test-service.ts";
import { ROOT } from "./imports.ts";
import { runYh } from "./run-yh.ts";

afterEach(endAll);

/** Runs a command in a terminal of its own, types keys once something is shown, and prints all that came. */
const IN_TERMINAL = `
import os, pty, select, sys, time
keys = [k.split("=>") for k in sys.argv[1].split("|")]
pid, fd = pty.fork()
if pid == 0:
    os.execvp(sys.argv[2], sys.argv[2:])
seen = b""
end = time.time() + 40
for wanted, key in keys:
    start = len(seen)
    while wanted.encode() not in seen[start:]:
        if time.time() > end:
            sys.exit("never shown: " + wanted + repr(seen[-2000:]))
        if select.select([fd], [], [], 0.1)[0]:
            seen += os.read(fd, 65536)
    os.write(fd, key.encode().decode("unicode_escape").encode())
try:
    while True:
        seen += os.read(fd, 65536)
except OSError:
    pass
_, status = os.waitpid(pid, 0)
sys.stdout.buffer.write(seen)
sys.exit(os.waitstatus_to_exitcode(status))
`;

describe("yh top", () => {
  it("shows the service once in a pipe, and as JSON", async () => {
    const service = await startTestService();
    const ansel = await service.player("Ansel");
    const { room } = await ansel.openRoom();
    const { out } = await runYh(["top", "--url", service.url]);
    expect(out).toMatch(new RegExp(`${room.code} +gathering +1 of 4 +0 +quayside +crews`));
    expect(out).not.toContain("q quit");
    const { rooms } = JSON.parse((await runYh(["top", "--json", "--url", service.url])).out) as { rooms: object[] };
    expect(rooms).toMatchObject([{ code: room.code }]);
  });

  it("takes keys in a terminal, tells why, and leaves the terminal as it was", async () => {
    const service = await startTestService();
    const ansel = await service.player("Ansel");
    const { room } = await ansel.openRoom();
    const keys = [
      `${room.code}=>3`,
      "sluice=>1",
      `${room.code}=>\\r`,
      "escape goes back=>\\x1b",
      `${room.code}=>q`,
    ].join("|");
    const yh = [process.execPath, join(ROOT, "packages/cli/bin/yh.js"), "top", "--every", "1", "--url", service.url];
    const child = spawn("python3", ["-c", IN_TERMINAL, keys, ...yh], {
      stdio: ["ignore", "pipe", "pipe"],
    });
    let out = "";
    let err = "";
    child.stdout.on("data", (chunk) => (out += String(chunk)));
    child.stderr.on("data", (chunk) => (err += String(chunk)));
    const code = await new Promise((resolve) => child.once("close", resolve));
    expect({ code, err }).toEqual({ code: 0, err: "" });
    expect(out).toContain("needs 1 more player");
    expect(out.trimEnd().endsWith("\u001b[?25h\u001b[?1049l")).toBe(true);
  });
});
