import { spawnSync } from "node:child_process";
import { chmodSync, chownSync } from "node:fs";

/** A user of this computer that instances run as. */
export interface RunAs {
  readonly name: string;
  readonly uid: number;
  readonly gid: number;
}

/** Folders that others may pass through, but not look into: what is in them is for its owner alone. */
const PASSABLE = 0o711;

/** A user by its name, or why instances cannot run as it. */
export function userNamed(name: string): RunAs | { readonly why: string } {
  if (process.getuid?.() !== 0) {
    return { why: "only root may run programs as another user; start the service as root, or leave runAs out" };
  }
  const [uid, gid] = [idOf("-u", name), idOf("-g", name)];
  if (uid === undefined || gid === undefined) return { why: `there is no user ${name} on this computer` };
  if (uid === 0) return { why: `${name} is root itself; name a user with no rights of its own` };
  // Of util-linux; the way to leave every group and all privileges behind in one step.
  if (spawnSync("setpriv", ["--version"]).status !== 0) return { why: "setpriv is missing; install util-linux" };
  return { name, uid, gid };
}

function idOf(which: "-u" | "-g", name: string): number | undefined {
  const { status, stdout } = spawnSync("id", [which, "--", name], { encoding: "utf8" });
  return status === 0 ? Number(stdout.trim()) : undefined;
}

/** The same command as another user: in none of our groups, and never with more rights than that has. It keeps its process. */
export function commandAs({ uid, gid }: RunAs, command: string, args: readonly string[]): [string, string[]] {
  const options = [`--reuid=${uid}`, `--regid=${gid}`, "--clear-groups", "--no-new-privs", "--inh-caps=-all"];
  return ["setpriv", [...options, "--", command, ...args]];
}

/** Gives a folder to a user, who reaches it through those that lead to it. */
export function giveFolder({ uid, gid }: RunAs, folder: string, through: readonly string[]): void {
  for (const path of through) chmodSync(path, PASSABLE);
  chownSync(folder, uid, gid);
}
