import { ProblemError } from "@yellow-harbor/client";
import { problem } from "@yellow-harbor/protocol";
import { type Diagnosis, diagnose, type Target } from "@yellow-harbor/reach";
import type { Command } from "commander";
import pc from "picocolors";
import { contextOf } from "../context.ts";
import { io } from "../io.ts";

interface DoctorOptions {
  readonly build?: string;
  readonly tls?: boolean;
}

export function addDoctor(program: Command): void {
  program
    .command("doctor")
    .description("check the way to a service step by step, and say what is wrong and what to do")
    .argument("[address]", "host:port or a URL; that of --url when left out")
    .option("--build <build>", "build of the game client")
    .option("--tls", "the service should speak TLS; not needed with an https URL")
    .addHelpText("after", "\nFails with exit code 6 when something is wrong.")
    .action(async (address: string | undefined, options: DoctorOptions, command: Command) => {
      const { screen, url } = contextOf(command);
      const target = targetOf(address ?? url, options.tls ?? false);
      const diagnosis = await diagnose(target, { build: options.build });
      screen.show(diagnosis, lines);
      if (diagnosis.cause !== undefined) io().exitCode = UNREACHABLE;
    });
}

/** The same that a command ends with when the service cannot be reached. */
const UNREACHABLE = 6;

export function targetOf(text: string, tls: boolean): Target {
  const url = /^[a-z]+:\/\//i.test(text) ? text : `${tls ? "https" : "http"}://${text}`;
  const usage = `${text} is not an address; give host:port, such as 203.0.113.7:7420, or a URL.`;
  if (!URL.canParse(url)) throw new ProblemError(problem("usage", usage));
  const { protocol, hostname, port } = new URL(url);
  const isSecure = protocol === "https:" || protocol === "wss:";
  if (!isSecure && protocol !== "http:" && protocol !== "ws:") throw new ProblemError(problem("usage", usage));
  const host = hostname.replace(/^\[|\]$/g, "");
  return { host, port: port === "" ? (isSecure ? 443 : 80) : Number(port), tls: isSecure };
}

const words: Readonly<Record<Diagnosis["steps"][number]["step"], string>> = {
  name: "address",
  connection: "connection",
  protocol: "protocol",
  wire: "wire version",
  build: "build",
  websocket: "players' way in",
};
const WIDEST = Math.max(...Object.values(words).map((word) => word.length));

function lines({ target: { host, port, tls }, steps, cause }: Diagnosis): string[] {
  const verdict = cause === undefined ? pc.green("Players get in.") : pc.red("Players do not get in.");
  return [
    `${pc.bold(`${host}:${port}`)}, ${tls ? "with TLS" : "without TLS"}`,
    "",
    ...steps.map(
      ({ step, ok, text }) => `${ok ? pc.green("ok  ") : pc.red("fail")}  ${words[step].padEnd(WIDEST)}  ${text}`,
    ),
    "",
    verdict,
  ];
}
