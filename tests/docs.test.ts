import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { Conditions } from "@yellow-harbor/lab";
import {
  Announce,
  AnnounceReply,
  Board,
  BoardReply,
  BuildSpec,
  CloudEvent,
  Goodbye,
  Heartbeat,
  Hello,
  KickFromMatch,
  MachineGroup,
  Poll,
  PollReply,
  Pool,
  playerRequests,
  problemCodes,
  Report,
  RequestEnvelope,
  ServiceFrame,
  Unboard,
  WEBHOOK_TYPE_PREFIX,
  type WebhookEventType,
  webhookEvents,
} from "@yellow-harbor/protocol";
import { loadConfig, loadDocuments, loadQueueChange, parseConfig } from "@yellow-harbor/service";
import { afterEach, describe, expect, it } from "vitest";
import { parse as parseYaml } from "yaml";
import { specFaults } from "../packages/service/src/config/references.ts";
import {
  endAll,
  startTestService,
  startVoyage,
  TEST_CONFIG,
  temporaryFolder,
  testConfig,
} from "../packages/service/src/testing/test-service.ts";
import { ROOT } from "./imports.ts";
import { runNode, runYh, spawnYh } from "./run-yh.ts";

afterEach(endAll);

const pages = [
  "README.md",
  "CONTRIBUTING.md",
  ...readdirSync(join(ROOT, "docs"))
    .filter((name) => name.endsWith(".md"))
    .map((name) => `docs/${name}`),
];
const read = (path: string) => readFileSync(join(ROOT, path), "utf8");

/** The examples of all pages: language, kind and text of each fence. */
const examples = pages.flatMap((page) =>
  [...read(page).matchAll(/^```(\w+)(?: ([\w-]+))?\n([\s\S]*?)^```$/gm)].map(
    ([, language = "", kind = "", text = ""]) => ({ page, language, kind, text }),
  ),
);

const playerFrame = (value: unknown) => {
  const { frame } = value as { frame: string };
  if (frame === "hello") return Hello.parse(value);
  if (frame === "heartbeat") return Heartbeat.parse(value);
  const { ask, args } = RequestEnvelope.parse(value);
  return playerRequests[ask as keyof typeof playerRequests].args.parse(args ?? {});
};

const parsers: Readonly<Record<string, (value: unknown) => unknown>> = {
  "player-frame": playerFrame,
  "service-frame": (value) => ServiceFrame.parse(value),
  "webhook-event": (value) => {
    const { type, data } = CloudEvent.parse(value);
    return webhookEvents[type.slice(WEBHOOK_TYPE_PREFIX.length) as WebhookEventType].data.parse(data);
  },
  ...Object.fromEntries(
    Object.entries({
      announce: Announce,
      "announce-reply": AnnounceReply,
      poll: Poll,
      "poll-reply": PollReply,
      board: Board,
      "board-reply": BoardReply,
      unboard: Unboard,
      kick: KickFromMatch,
      report: Report,
      goodbye: Goodbye,
    }).map(([name, schema]) => [
      name,
      (value: unknown) => (schema as { parse: (value: unknown) => unknown }).parse(value),
    ]),
  ),
};

describe("generated documents", () => {
  it("are those of the schemas (npm run docs makes them anew)", async () => {
    const { generatedDocuments, pagesWithReference, withReference } = await loadDocuments();
    for (const [path, text] of Object.entries(await generatedDocuments())) expect(read(path), path).toBe(text);
    for (const [path, reference] of Object.entries(pagesWithReference)) {
      expect(withReference(read(path), reference()), path).toBe(read(path));
    }
  });

  it.each(["docs/openapi.json", "docs/asyncapi.json", "docs/config.schema.json", "docs/webhook-events.schema.json"])(
    "%s has no reference that leads nowhere",
    (path) => {
      const document = JSON.parse(read(path));
      const lost = [...read(path).matchAll(/"\$ref": "#\/([^"]+)"/g)]
        .map(([, pointer = ""]) => pointer)
        .filter((pointer) => {
          const found = pointer
            .split("/")
            .reduce(
              (node: Record<string, unknown> | undefined, step) => node?.[step.replaceAll("~1", "/")] as never,
              document,
            );
          return found === undefined;
        });
      expect(lost).toEqual([]);
    },
  );

  it("name every problem code, and the other pages name none that is not there", () => {
    const listed = [...read("docs/problems.md").matchAll(/^\| `([\w-]+)` \|/gm)].map(([, code]) => code);
    expect(listed).toEqual(problemCodes);
  });
});

describe("the document of the players' wire", () => {
  it("describes every frame that the service sends, and every one it takes", () => {
    const document = JSON.stringify(JSON.parse(read("docs/asyncapi.json")).components);
    const kinds = ServiceFrame.options.flatMap((option) => frameKinds(option));
    const missing = [...new Set([...kinds, "hello", "heartbeat", "request"])].filter(
      (kind) => !document.includes(`"frame":{"type":"string","const":"${kind}"}`),
    );
    expect(missing).toEqual([]);
  });
});

/** The literal of `frame` in a schema, or in each schema of a union. */
function frameKinds(schema: unknown): string[] {
  const { options, shape } = schema as { options?: unknown[]; shape?: { frame: { value: string } } };
  return shape ? [shape.frame.value] : (options ?? []).flatMap(frameKinds);
}

describe("examples in the documents", () => {
  it("are there to be tried", () => {
    expect(examples.length).toBeGreaterThan(20);
  });

  it.each(examples.filter(({ language, kind }) => language === "json" && kind !== ""))(
    "$page: $kind fits its schema",
    ({ kind, text }) => {
      const parse = parsers[kind];
      expect(parse, `a schema for ${kind}`).toBeDefined();
      parse?.(JSON.parse(text));
    },
  );

  it.each(examples.filter(({ language, kind }) => language === "yaml" && kind === "queue"))(
    "$page: the queue is valid",
    ({ text }) => {
      const demo = loadConfig(join(ROOT, "examples/tidewrights/harbor.yaml"));
      const base = demo.ok ? demo.config.queues["crews"] : undefined;
      const file = join(temporaryFolder(), "queue.yaml");
      writeFileSync(file, text);
      expect(base && loadQueueChange(file, "crews", base)).toMatchObject({ ok: true });
    },
  );

  it.each(examples.filter(({ language, kind }) => language === "yaml" && kind === "conditions"))(
    "$page: the conditions are valid",
    ({ text }) => {
      expect(Conditions.safeParse(parseYaml(text))).toMatchObject({ success: true });
    },
  );

  it.each(examples.filter(({ language, kind }) => language === "yaml" && kind === ""))(
    "$page: the configuration is valid",
    ({ text }) => {
      expect(parseConfig(text)).toMatchObject({ ok: true });
    },
  );

  it.each(examples.filter(({ language, kind }) => language === "yaml" && kind === "parts"))(
    "$page: the part of a configuration is valid beside the others",
    ({ text }) => {
      expect(parseConfig(TEST_CONFIG() + text)).toMatchObject({ ok: true });
    },
  );

  it.each(examples.filter(({ language, kind }) => language === "yaml" && kind === "builds"))(
    "$page: the builds are valid",
    ({ text }) => {
      const { builds } = parseYaml(text) as { builds: Record<string, unknown> };
      for (const spec of Object.values(builds)) expect(specFaults(BuildSpec.parse(spec), [])).toEqual([]);
    },
  );

  it.each(examples.filter(({ language, kind }) => language === "yaml" && kind === "pools"))(
    "$page: the pools are valid",
    ({ text }) => {
      const { pools } = parseYaml(text) as { pools: Record<string, unknown> };
      for (const pool of Object.values(pools)) expect(Pool.safeParse(pool)).toMatchObject({ success: true });
    },
  );

  it.each(examples.filter(({ language, kind }) => language === "yaml" && kind === "groups"))(
    "$page: the groups of machines are valid",
    ({ text }) => {
      const { machineGroups } = parseYaml(text) as { machineGroups: Record<string, unknown> };
      for (const group of Object.values(machineGroups))
        expect(MachineGroup.safeParse(group)).toMatchObject({ success: true });
    },
  );

  it("of the SDK run against a service", async () => {
    const config = testConfig("good", (base) => ({
      ...base,
      players: { ...base.players, builds: ["tidewrights-0.3"] },
    }));
    const service = await startTestService(config);
    const scripts = examples.filter(({ kind }) => kind === "sdk");
    expect(scripts.length).toBeGreaterThan(0);
    for (const { text } of scripts) {
      const lines = await runScript(text, service.url);
      expect(JSON.stringify(lines)).toContain("needs 1 more player");
      expect(JSON.stringify(lines)).toContain("others join with code");
    }
  });

  it("of a back end does what it says", async () => {
    const service = await startTestService();
    const [script, ...others] = examples.filter(({ kind }) => kind === "back-end");
    expect(others).toEqual([]);
    const lines = await runScript(script?.text ?? "", service.url);
    const [{ id, code, reserved } = {}] = (await service.operator.rooms()).rooms;
    expect(lines).toEqual([[code]]);
    expect(reserved?.map(({ name }) => name)).toEqual(["Ansel", "Brisa"]);
    expect((await service.operator.reservations(id ?? "")).reservations[1]?.for).toEqual({
      account: "tidewrights:1202",
    });
  });

  it.each(examples.filter(({ language }) => language === "js"))(
    "$page: the script is sound, and what it imports is there",
    async ({ text }) => {
      const folder = mkdtempSync(join(tmpdir(), "yellow-harbor-example-"));
      const file = join(folder, "example.mjs");
      writeFileSync(file, text);
      const { code, err } = await runNode(["--check", file]);
      rmSync(folder, { recursive: true });
      expect({ code, err }).toEqual({ code: 0, err: "" });
      for (const [, names = "", from = ""] of text.matchAll(/^import \{([^}]+)\} from "(@yellow-harbor[^"]+)";$/gm)) {
        const exported = Object.keys(
          await (from.endsWith("/kit") ? import("@yellow-harbor/kit") : import("@yellow-harbor/client")),
        );
        expect(exported).toEqual(expect.arrayContaining(names.split(",").map((name) => name.trim())));
      }
    },
  );

  it("of yh run and end well", async () => {
    const config = testConfig("good", (base) => ({ ...base, players: { ...base.players, builds: ["game-1"] } }));
    const service = await startTestService(config, { reload: () => ({ ok: true, config, file: "harbor.yaml" }) });
    const { ansel, room } = await startVoyage(service, 4);
    const { instance = "" } = await ansel.nextPass();
    const folder = temporaryFolder();
    const blocks = examples
      .filter(({ language }) => language === "sh")
      .map(({ text }) => text.split("\n").map((line) => line.trim()))
      .map((lines) => lines.filter((line) => /(^|\| )yh /.test(line) && !/ serve | play --name You$/.test(line)));
    expect(blocks.flat().length).toBeGreaterThan(5);
    const runLine = async (line: string) => {
      const [, input = "", words = ""] = /^(?:printf '([^']*)' \| )?yh (.+)$/.exec(line) ?? [];
      const args = words
        .replace("K7RDM", room.code)
        .replace("i_4kq2m7c9x0ab", instance)
        .replace("monday.sqlite", join(folder, "monday.sqlite"))
        .replace(
          /(?<= )(evening\.jsonl|recorded\.jsonl|evening\.yaml|wider\.yaml|by-price\.yaml|conditions\.yaml|rush\.yaml|machines\.yaml|on-demand\.yaml|roomy\.yaml)/g,
          (name) => join(ROOT, "examples/tidewrights/lab", name),
        )
        .replace("harbor.yaml", join(ROOT, "examples/tidewrights/harbor.yaml"));
      // The lab computes for seconds at a time: in a process of its own it keeps the service here from nothing.
      const run = args.startsWith("lab ") ? spawnYh : runYh;
      const ran = await run([...args.split(" "), "--url", service.url], { input: input.replaceAll("\\n", "\n") });
      expect(ran, line).toMatchObject({ code: 0 });
    };
    // Examples all at once, since some of them wait for seconds; the lines of one after each other, as they are read.
    const runBlock = async (lines: readonly string[]) => {
      for (const line of lines) await runLine(line);
    };
    // Doctor waits three seconds for an answer, which is long for a service and short for one beside thirty commands.
    const isPatient = (lines: readonly string[]) => !lines.some((line) => line.includes("yh doctor"));
    await Promise.all(blocks.filter(isPatient).map(runBlock));
    for (const lines of blocks.filter((one) => !isPatient(one))) await runBlock(lines);
  });
});

/** Runs a script that imports the SDK; what it printed, line by line. */
async function runScript(text: string, url: string): Promise<unknown[][]> {
  const lines: unknown[][] = [];
  const body = text
    .replace(/^import (\{[^}]+\}) from "([^"]+)";$/gm, 'const $1 = await load("$2");')
    .replaceAll("http://127.0.0.1:7420", url)
    .replaceAll("console.log", "log");
  const client = await import("@yellow-harbor/client");
  const AsyncFunction = (async () => undefined).constructor as new (
    ...args: string[]
  ) => (...args: unknown[]) => Promise<void>;
  await new AsyncFunction("load", "log", body)(
    async () => client,
    (...words: unknown[]) => lines.push(words),
  );
  return lines;
}

describe("the documents", () => {
  it.each(pages)("%s links to nothing that is not there", (page) => {
    const folder = page.includes("/") ? "docs" : ".";
    const links = [...read(page).matchAll(/\]\((?!https?:)([^)#]+)(?:#[^)]*)?\)/g)].map(([, path = ""]) =>
      join(folder, path),
    );
    const gone = links.filter((path) => {
      try {
        readFileSync(join(ROOT, path));
        return false;
      } catch (error) {
        return (error as NodeJS.ErrnoException).code !== "EISDIR";
      }
    });
    expect(gone).toEqual([]);
  });
});
