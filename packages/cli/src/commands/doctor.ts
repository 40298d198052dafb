import { ProblemError } from "@yellow-harbor/client";
import { problem } from "@yellow-harbor/protocol";
import { type Diagnosis, diagnose, type Target } from "@yellow-harbor/reach";
import type { Command } from "commander";
import pc from "picocolors";
import { withConfigOptions } from "../config/read-config.ts";
import { contextOf } from "../context.ts";
import { io } from "../io.ts";
import { screenFor } from "../output/screen.ts";
import { doctorSelf, type SelfOptions } from "./doctor-self.ts";

interface DoctorOptions extends SelfOptions {
  readonly self?: boolean;
  readonly build?: string;
  readonly tls?: boolean;
}

export function addDoctor(program: Command): void {
  withConfigOptions(program.command("doctor"))
    .description("check the way to a service step by step, or with --self all that the service stands on")
    .argument("[address]", "host:port or a URL; that of --url when left out")
    .option("--build <build>", "build of the game client")
    .option("--tls", "the service should speak TLS; not needed with an https URL")
    .option(
      "--self",
      "look at configuration, data folder, disk, clock, limits, ports, certificate and keys of this computer",
    )
    .addHelpText(
      "after",
      "\nFails with exit code 6 when players do not get in, and with 7 when --self finds what has to be mended.",
    )
    .action(async (address: string | undefined, options: DoctorOptions, command: Command) => {
      if (options.self) return doctorSelf(options, screenFor(command.optsWithGlobals()));
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
