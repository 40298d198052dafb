import { chmodSync, mkdirSync, readFileSync, renameSync, statSync, writeFileSync } from "node:fs";
import { homedir } from "node:os";
import { dirname, join } from "node:path";
import { ProblemError } from "@yellow-harbor/client";
import { z } from "zod";

const Profile = z.strictObject({ url: z.url({ protocol: /^https?$/ }), key: z.string().min(1).optional() });
const Profiles = z.strictObject({ current: z.string().optional(), profiles: z.record(z.string(), Profile) });

/** Where a service is, and with which key it is asked. */
export type Profile = z.infer<typeof Profile>;
export type Profiles = z.infer<typeof Profiles>;

/** The file with a user's profiles, which has keys and is for its owner alone. */
export const profilesFile = (): string =>
  join(process.env["XDG_CONFIG_HOME"] ?? join(homedir(), ".config"), "yellow-harbor/profiles.json");

/** Profiles of this user; none when there is no file. Throws when others can read it, or it is not what it should be. */
export function readProfiles(): Profiles {
  const file = profilesFile();
  const found = statSync(file, { throwIfNoEntry: false });
  if (found === undefined) return { profiles: {} };
  if ((found.mode & 0o077) !== 0)
    throw ProblemError.of("usage", `${file} has keys and can be read by others; chmod 600 ${file}.`);
  try {
    return Profiles.parse(JSON.parse(readFileSync(file, "utf8")));
  } catch (error) {
    const [issue] = error instanceof z.ZodError ? error.issues : [];
    const why = issue === undefined ? (error as Error).message : `${issue.path.join(".")}: ${issue.message}`;
    throw ProblemError.of("usage", `${file} is not a file of profiles (${why}); mend it, or remove it.`);
  }
}

export function writeProfiles(profiles: Profiles): void {
  const file = profilesFile();
  mkdirSync(dirname(file), { recursive: true, mode: 0o700 });
  const part = `${file}.part`;
  writeFileSync(part, `${JSON.stringify(profiles, null, 2)}\n`, { mode: 0o600 });
  chmodSync(part, 0o600);
  renameSync(part, file);
}

/** A profile by its name. Throws when there is none. */
export function profileNamed(name: string): Profile {
  const { profiles } = readProfiles();
  const profile = Object.hasOwn(profiles, name) ? profiles[name] : undefined;
  if (profile !== undefined) return profile;
  const names = Object.keys(profiles).join(", ");
  const known = names === "" ? "there is none yet" : `there are ${names}`;
  throw ProblemError.of("usage", `There is no profile ${name}; ${known}. yh profile add makes one.`);
}
