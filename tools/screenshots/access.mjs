// The console on a service where operators need a key.
import { spawn } from "node:child_process";
import { existsSync, mkdtempSync, readFileSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { setTimeout as wait } from "node:timers/promises";
import { node, ROOT, run } from "../run.mjs";

/** The log-in, and below it who may do what: on a service where operators need a key. */
export async function accessScreenshot(page, { port, file }) {
  const folder = mkdtempSync(join(tmpdir(), "yellow-harbor-access-"));
  const url = `http://127.0.0.1:${port}`;
  const config = join(folder, "harbor.yaml");
  const demo = readFileSync(join(ROOT, "examples/tidewrights/harbor.yaml"), "utf8");
  // Nothing is started there, and nobody plays.
  writeFileSync(
    config,
    demo
      .replace("operators: { access: open }", "")
      .replaceAll("../../", `${ROOT}/`)
      .replace(/command: \.\//g, `command: ${join(ROOT, "examples/tidewrights")}/`)
      .replace(/^ +plan: .*$/gm, ""),
  );
  const args = ["serve", "--config", config, "--port", String(port), "--data", join(folder, "data")];
  const service = spawn(node, [join(ROOT, "packages/cli/bin/yh.js"), ...args, "--accept-risk", "root-instances"], {
    stdio: ["ignore", "ignore", "inherit"],
    cwd: join(ROOT, "examples/tidewrights"),
  });
  try {
    const key = join(folder, "data/operator.key");
    for (let n = 0; n < 100 && !existsSync(key); n++) await wait(100);
    const { OperatorClient, PlayerClient } = await import(join(ROOT, "packages/client/dist/index.js"));
    const first = new OperatorClient({ url, token: readFileSync(key, "utf8").trim() });
    const { secret } = await first.createKey({ name: "Night watch", role: "operate", days: 365 });
    await first.createKey({ name: "deploy-pipeline", role: "deploy", days: 90 });
    const old = await first.createKey({ name: "former contractor", role: "administer" });
    await first.revokeKey(old.key.id);
    const watch = new OperatorClient({ url, token: secret });
    const rude = await PlayerClient.connect({ url, name: "Rude", build: "tidewrights-0.3" });
    const { room } = await rude.openRoom();
    await watch.closeRoom(room.id, "its name");
    await watch.banPlayer(rude.id, { reason: "cheating", hours: 72 });
    await watch.createBan({ account: "game:4711" }, { reason: "sold accounts" });
    await watch.createKey({ name: "more", role: "administer" }).catch(() => undefined);
    await page.goto(`${url}/#access`);
    await page.getByRole("button", { name: "Log in" }).waitFor();
    const [logIn, access] = ["log-in", "access"].map((one) => join(folder, `${one}.png`));
    await page.screenshot({ path: logIn, clip: { x: 0, y: 0, width: 1280, height: 430 } });
    await page.getByRole("textbox", { name: "Key" }).fill(readFileSync(key, "utf8").trim());
    await page.getByRole("button", { name: "Log in" }).click();
    await page.locator("#audit tbody tr").first().waitFor();
    await page.setViewportSize({ width: 1280, height: 1040 });
    await page.getByRole("button", { name: "Check the log" }).click();
    await wait(2_500);
    await page.screenshot({ path: access });
    await run("convert", [logIn, access, "-append", file]);
  } finally {
    service.kill("SIGTERM");
    await new Promise((resolve) => service.once("exit", resolve));
  }
}
