import { Command, Option } from "commander";
import { DEFAULT_URL } from "./default-url.ts";
import { io } from "./io.ts";
import { writtenVersions } from "./own-version.ts";

type Add = (program: Command) => void;

/** Each command is loaded when it is asked for, so that none waits for the others. */
const commands: Readonly<Record<string, () => Promise<Add>>> = {
  serve: async () => (await import("./commands/serve.ts")).addServe,
  service: async () => (await import("./commands/service.ts")).addService,
  status: async () => (await import("./commands/status.ts")).addStatus,
  top: async () => (await import("./commands/top.ts")).addTop,
  room: async () => (await import("./commands/room.ts")).addRoom,
  instance: async () => (await import("./commands/instance.ts")).addInstance,
  player: async () => (await import("./commands/player.ts")).addPlayer,
  lobby: async () => (await import("./commands/lobby.ts")).addLobby,
  party: async () => (await import("./commands/party.ts")).addParty,
  echo: async () => (await import("./commands/echo.ts")).addEcho,
  agent: async () => (await import("./commands/agent.ts")).addAgent,
  machine: async () => (await import("./commands/machine.ts")).addMachine,
  build: async () => (await import("./commands/build.ts")).addBuild,
  cost: async () => (await import("./commands/cost.ts")).addCost,
  pool: async () => (await import("./commands/pool.ts")).addPool,
  queue: async () => (await import("./commands/queue.ts")).addQueue,
  rating: async () => (await import("./commands/rating.ts")).addRating,
  explain: async () => (await import("./commands/explain.ts")).addExplain,
  watch: async () => (await import("./commands/watch.ts")).addWatch,
  journal: async () => (await import("./commands/journal.ts")).addJournal,
  replay: async () => (await import("./commands/replay.ts")).addReplay,
  backup: async () => (await import("./commands/backup.ts")).addBackup,
  restore: async () => (await import("./commands/backup.ts")).addRestore,
  bots: async () => (await import("./commands/bots.ts")).addBots,
  play: async () => (await import("./commands/play.ts")).addPlay,
  doctor: async () => (await import("./commands/doctor.ts")).addDoctor,
  address: async () => (await import("./commands/address.ts")).addAddress,
  lab: async () => (await import("./commands/lab.ts")).addLab,
  config: async () => (await import("./commands/config.ts")).addConfig,
  ban: async () => (await import("./commands/ban.ts")).addBan,
  webhook: async () => (await import("./commands/webhook.ts")).addWebhook,
  audit: async () => (await import("./commands/audit.ts")).addAudit,
  console: async () => (await import("./commands/console.ts")).addConsole,
  session: async () => (await import("./commands/session.ts")).addSession,
  key: async () => (await import("./commands/key.ts")).addKey,
  token: async () => (await import("./commands/token.ts")).addToken,
  profile: async () => (await import("./commands/profile.ts")).addProfile,
  completion: async () => (await import("./commands/completion.ts")).addCompletionOf(wholeProgram),
};

/** The program with the command that the words begin with, or with all of them when they begin with none. */
async function buildProgram(words: readonly string[]): Promise<Command> {
  const program = new Command("yh")
    .description("Yellow Harbor: run the service and look into it")
    .addOption(new Option("--url <address>", "address of the service").env("YH_URL").default(DEFAULT_URL))
    .addOption(new Option("--token <token>", "operator token, where one is needed").env("YH_TOKEN"))
    .addOption(new Option("--profile <name>", "service of a profile: see yh profile").env("YH_PROFILE"))
    .option("--json", "print JSON and nothing else")
    .option("--absolute", "print times as dates instead of relative ones")
    .addHelpText("after", "\nyh --version prints the versions of the product, the wire and the files.")
    .configureHelp({ showGlobalOptions: true })
    .showSuggestionAfterError()
    .showHelpAfterError("(yh help shows what there is)")
    .configureOutput({ writeOut: (text) => io().out.write(text), writeErr: (text) => io().err.write(text) })
    .exitOverride();
  const [first = ""] = words;
  const wanted = Object.hasOwn(commands, first) ? [commands[first]] : Object.values(commands);
  for (const load of wanted) (await load?.())?.(program);
  for (const command of program.commands) endTheSameWay(command);
  return program;
}

/** The program with all of its commands. */
export const wholeProgram = (): Promise<Command> => buildProgram([]);

/** Subcommands leave by the same door as the program. */
function endTheSameWay(command: Command): void {
  command.exitOverride();
  for (const child of command.commands) endTheSameWay(child);
}

/** Runs yh in this process. The exit code comes from the table of problems. */
export async function main(argv: readonly string[]): Promise<void> {
  // Whoever reads from us may stop early, as head does; that is no fault of anybody.
  process.stdout.on("error", (error: NodeJS.ErrnoException) => {
    if (error.code !== "EPIPE") throw error;
    process.exit();
  });
  await run(argv);
}

async function printVersions(words: readonly string[]): Promise<void> {
  const found = writtenVersions() ?? (await import("@yellow-harbor/service")).versions();
  const { product, wire, files } = found;
  const lines = [
    `Yellow Harbor ${product}`,
    `wire   ${wire.version}  (WebSocket subprotocol ${wire.subprotocol})`,
    `files  schema ${files.schema}, snapshots ${files.snapshot}`,
  ];
  io().out.write(`${words.includes("--json") ? JSON.stringify(found, null, 2) : lines.join("\n")}\n`);
}

/** The same, with the streams that are given: see {@link withIo}. */
export async function run(argv: readonly string[]): Promise<void> {
  try {
    const words = argv.slice(2);
    // A version of a build is named by the same word, behind its command.
    const isAlone = words.every((word) => word.startsWith("-"));
    if (isAlone && words.some((word) => word === "--version" || word === "-V")) return await printVersions(words);
    const program = await buildProgram(words);
    await program.parseAsync([...argv]);
  } catch (error) {
    // Loaded here: what is asked without a fault need not wait for what explains faults.
    const { explainError } = await import("./errors.ts");
    io().exitCode = explainError(error, argv.includes("--json"));
  }
}
