import type { CreatedKey, KeyView, OperatorRole } from "@yellow-harbor/protocol";
import { OPERATOR_ROLES } from "@yellow-harbor/protocol";
import { type Command, Option } from "commander";
import pc from "picocolors";
import { contextOf, wholeNumber } from "../context.ts";
import type { Screen } from "../output/screen.ts";
import { table } from "../output/table.ts";
import { when } from "../output/time.ts";

const KEY = ["<key>", "id of the key; yh key list shows them"] as const;

export function addKey(program: Command): void {
  const key = program.command("key").description("create, list, rotate and revoke keys of operators");
  key
    .command("list")
    .description("list keys, their roles, and when and from where each was used last")
    .action(async (_options: unknown, command: Command) => {
      const { screen, operator } = contextOf(command);
      screen.show(await operator.keys(), ({ keys }) => render(keys, screen));
    });
  key
    .command("create")
    .description("create a key; its secret is shown this once")
    .argument("<name>", "who or what uses it")
    .addOption(new Option("--role <role>", "what it may do").choices(OPERATOR_ROLES).makeOptionMandatory())
    .option("--days <number>", "days until it ends; never when left out", wholeNumber("--days", 1, 3_650))
    .action(async (name: string, options: { role: OperatorRole; days?: number }, command: Command) => {
      const { screen, operator } = contextOf(command);
      screen.show(await operator.createKey({ name, ...options }), told);
    });
  key
    .command("rotate")
    .description("create a key in the place of another, which works on for the overlap")
    .argument(...KEY)
    .option("--overlap <minutes>", "minutes that the old key still works", wholeNumber("--overlap", 0, 10_080), 60)
    .action(async (id: string, { overlap }: { overlap: number }, command: Command) => {
      const { screen, operator } = contextOf(command);
      screen.show(await operator.rotateKey(id, overlap), (created) => [
        ...told(created),
        `The old key ${id} works for ${overlap} more minutes.`,
      ]);
    });
  key
    .command("revoke")
    .description("revoke a key: it is worth nothing from now on")
    .argument(...KEY)
    .action(async (id: string, _options: unknown, command: Command) => {
      const { screen, operator } = contextOf(command);
      screen.show(await operator.revokeKey(id), ({ name, role }) => [`Key ${id} (${name}, ${role}) is revoked.`]);
    });
}

const told = ({ key, secret }: CreatedKey): string[] => [
  `Key ${key.id} for ${key.name}, role ${key.role}${key.endsAtMs === undefined ? "" : `, ends ${when(key.endsAtMs, Date.now(), true)}`}:`,
  secret,
  "Keep it now: it is not shown again. Use it with --token, YH_TOKEN, or Authorization: Bearer.",
];

function render(keys: readonly KeyView[], { width, absolute }: Screen): string[] {
  if (keys.length === 0) return ["No keys yet. yh key create NAME --role look makes one."];
  const now = Date.now();
  const at = (atMs: number | undefined, without: string) => (atMs === undefined ? without : when(atMs, now, absolute));
  const state = { valid: pc.green, ended: pc.yellow, revoked: pc.red };
  const lines = table(
    keys,
    [
      { heading: "KEY", value: (one) => pc.bold(one.id) },
      { heading: "NAME", value: (one) => one.name },
      { heading: "ROLE", value: (one) => one.role },
      { heading: "STATE", value: (one) => state[one.state](one.state) },
      { heading: "CREATED", value: (one) => at(one.createdAtMs, "-") },
      { heading: "ENDS", value: (one) => at(one.endsAtMs, "never") },
      { heading: "LAST USED", value: (one) => at(one.lastUsedAtMs, "never") },
      { heading: "FROM", value: (one) => one.lastUsedFrom ?? "-" },
    ],
    width,
  );
  return [...lines, pc.dim(`${keys.length} ${keys.length === 1 ? "key" : "keys"}`)];
}
