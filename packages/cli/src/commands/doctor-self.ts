import { findKey } from "@yellow-harbor/reach";
import type { Finding } from "@yellow-harbor/service";
import pc from "picocolors";
import { overridesOf, readConfig } from "../config/read-config.ts";
import { operatorAt } from "../context.ts";
import { io } from "../io.ts";
import type { Screen } from "../output/screen.ts";

export interface SelfOptions {
  readonly config: string;
  readonly set?: readonly string[];
}

const SOON_MS = 14 * 86_400_000;
/** The same that a command ends with when a configuration is not valid. */
const FOUND_BAD = 7;

/** Looks at all that the service of a configuration stands on, and at the service itself when it answers. */
export async function doctorSelf({ config: file, set }: SelfOptions, screen: Screen): Promise<void> {
  const { loadSelfCheck } = await import("@yellow-harbor/service");
  const { selfCheck } = await loadSelfCheck();
  const { config, folder, file: path } = await readConfig(file, await overridesOf(set));
  const { host, port, url: named } = config.listen;
  const reachable = host === "0.0.0.0" ? "127.0.0.1" : host === "::" ? "[::1]" : host;
  const url =
    config.listen.tls === undefined ? `http://${reachable}:${port}` : (named ?? `https://${reachable}:${port}`);
  const running = await runningFindings(url, port);
  const findings = [
    { check: "configuration", state: "ok" as const, text: path },
    ...(await selfCheck({ config, folder, isRunning: running !== undefined })),
    ...(running ?? [{ check: "service", state: "ok" as const, text: `nothing answers at ${url}: it does not run` }]),
  ];
  screen.show({ findings }, () => lines(findings));
  if (findings.some(({ state }) => state === "bad")) io().exitCode = FOUND_BAD;
}

/** What a service that runs says of itself; undefined when none answers. */
async function runningFindings(url: string, port: number): Promise<Finding[] | undefined> {
  const about = await operatorAt(url)
    .about()
    .catch(() => undefined);
  if (about === undefined) return undefined;
  const answers: Finding = { check: "service", state: "ok", text: `version ${about.version} answers at ${url}` };
  const found = findKey(port);
  if (found === undefined || !("key" in found)) return [answers];
  const operator = operatorAt(url, { token: found.key });
  const [{ keys }, { alerts }] = await Promise.all([operator.keys(), operator.alerts()]);
  const ending = keys.flatMap(({ name, endsAtMs, state }): Finding[] => {
    const leftMs = (endsAtMs ?? Number.POSITIVE_INFINITY) - Date.now();
    if (state !== "valid" || leftMs > SOON_MS) return [];
    const text = `the key ${name} ends in ${Math.ceil(leftMs / 86_400_000)} days`;
    return [{ check: "keys", state: "look", text, remedy: "yh key rotate, and give the new one to whoever uses it" }];
  });
  const raised = alerts.map(({ severity, text, remedy }): Finding => {
    return { check: "alert", state: severity === "page" ? "bad" : "look", text, remedy };
  });
  return [answers, ...ending, ...raised];
}

function lines(findings: readonly Finding[]): string[] {
  const widest = Math.max(...findings.map(({ check }) => check.length));
  const marks = { ok: pc.green("ok  "), look: pc.yellow("look"), bad: pc.red("bad ") };
  const count = (state: Finding["state"]) => findings.filter((one) => one.state === state).length;
  const [isBad, isLook] = [count("bad"), count("look")];
  return [
    ...findings.flatMap(({ check, state, text, remedy }) => [
      `${marks[state]}  ${check.padEnd(widest)}  ${text}`,
      ...(remedy === undefined ? [] : [pc.dim(`      ${"".padEnd(widest)}  ${remedy}`)]),
    ]),
    "",
    isBad > 0
      ? pc.red(`${isBad} of ${findings.length} have to be mended.`)
      : isLook > 0
        ? pc.yellow(`The service runs so; ${isLook} of ${findings.length} are worth a look.`)
        : pc.green("All is well."),
  ];
}
