import { readFileSync } from "node:fs";
import { ProblemError } from "@yellow-harbor/client";
import type { Command } from "commander";
import pc from "picocolors";
import { io } from "../io.ts";
import { type Screen, screenFor } from "../output/screen.ts";
import { table } from "../output/table.ts";
import { type Profiles, profileNamed, profilesFile, readProfiles, writeProfiles } from "../profiles/profiles.ts";

export function addProfile(program: Command): void {
  const profile = program.command("profile").description("services that you ask often: address and key by a name");
  profile
    .command("add")
    .description("keep an address and a key by a name; the key is read from a file, or from standard input with -")
    .argument("<name>", "such as live")
    .argument("<url>", "address of the service")
    .option("--key-file <file>", "file with the key in its first line; - for standard input")
    .action(async (name: string, url: string, { keyFile }: { keyFile?: string }, command: Command) => {
      const { current, profiles } = readProfiles();
      if (!/^[\w.-]{1,64}$/.test(name))
        throw ProblemError.of("usage", `${name} is no name; take letters, digits, . and -.`);
      if (!URL.canParse(url) || !/^https?:$/.test(new URL(url).protocol))
        throw ProblemError.of("usage", `${url} is not an address; give one such as https://harbor.example.`);
      const key = keyFile === undefined ? undefined : await keyFrom(keyFile);
      const own = { url, ...(key !== undefined && { key }) };
      writeProfiles({ current: current ?? name, profiles: { ...profiles, [name]: own } });
      show(screenFor(command.optsWithGlobals()));
    });
  profile
    .command("list")
    .description("list profiles, without their keys")
    .action((_options: unknown, command: Command) => show(screenFor(command.optsWithGlobals())));
  profile
    .command("use")
    .description("ask the service of this profile from now on, unless another is named")
    .argument("<name>", "name of a profile")
    .action((name: string, _options: unknown, command: Command) => {
      profileNamed(name);
      writeProfiles({ ...readProfiles(), current: name });
      show(screenFor(command.optsWithGlobals()));
    });
  profile
    .command("remove")
    .description("forget a profile and its key; the key itself is revoked by yh key revoke")
    .argument("<name>", "name of a profile")
    .action((name: string, _options: unknown, command: Command) => {
      profileNamed(name);
      const { current, profiles } = readProfiles();
      const { [name]: _, ...others } = profiles;
      writeProfiles({ ...(current !== undefined && current !== name && { current }), profiles: others });
      show(screenFor(command.optsWithGlobals()));
    });
}

async function keyFrom(file: string): Promise<string> {
  const text = file === "-" ? await allOf() : readFileSync(file, "utf8");
  const [key = ""] = text.split(/\r?\n/);
  if (key.trim() === "")
    throw ProblemError.of("usage", `There is no key in ${file === "-" ? "standard input" : file}.`);
  return key.trim();
}

async function allOf(): Promise<string> {
  let text = "";
  for await (const chunk of io().in) text += chunk;
  return text;
}

function show(screen: Screen): void {
  const { current, profiles }: Profiles = readProfiles();
  const rows = Object.entries(profiles).map(([name, { url, key }]) => ({
    name,
    url,
    hasKey: key !== undefined,
    isCurrent: name === current,
  }));
  screen.show({ file: profilesFile(), profiles: rows }, () => {
    if (rows.length === 0) return ["No profiles. yh profile add NAME URL --key-file FILE keeps one."];
    const columns = [
      { heading: "PROFILE", value: ({ name }: (typeof rows)[number]) => pc.bold(name) },
      { heading: "IN USE", value: ({ isCurrent }: (typeof rows)[number]) => (isCurrent ? "yes" : "") },
      { heading: "KEY", value: ({ hasKey }: (typeof rows)[number]) => (hasKey ? "kept" : "none") },
      { heading: "ADDRESS", value: ({ url }: (typeof rows)[number]) => url },
    ];
    return table(rows, columns, screen.width);
  });
}
