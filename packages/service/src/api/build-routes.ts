import { buildViews, costsView, machineViews } from "@yellow-harbor/core";
import {
  AddBuild,
  BuildList,
  type BuildSpec,
  BuildVersion,
  BuildView,
  ChangeRollOut,
  ConfigName,
  CostsView,
  MachineList,
  type Problem,
  problem,
} from "@yellow-harbor/protocol";
import { z } from "zod";
import { runFaults } from "../config/commands.ts";
import { specFaults } from "../config/references.ts";
import type { Config } from "../config/schema.ts";
import type { Api, ApiParts } from "./parts.ts";
import { sendProblem } from "./problems.ts";

const tags = ["builds"];
const security = [{ operatorToken: [] }];

/** Versions of dedicated servers, how they take over, and what running them costs. */
export function buildRoutes(api: Api, { runtime, config, workingFolder }: ApiParts): void {
  const listSchema = { tags, security, summary: "All versions of all build lines.", response: { 200: BuildList } };
  api.get("/v1/builds", { schema: listSchema }, async () =>
    runtime.query(({ state }) => ({ builds: buildViews(state) })),
  );

  const addSchema = {
    tags,
    security,
    params: z.object({ line: ConfigName }),
    body: AddBuild,
    response: { 200: BuildView },
    summary: "Register a new version of a build line; it takes over step by step while not too many of it fail.",
  };
  api.post("/v1/builds/:line", { schema: addSchema }, async ({ params: { line }, body: { spec, rollOut } }, reply) => {
    const faulty = refusalOf(spec, line, config, workingFolder);
    if (faulty) return sendProblem(reply, faulty);
    const settled = await runtime.ask({ do: "build.add", line, spec, rollOut });
    return "refused" in settled ? sendProblem(reply, settled.refused) : settled.reply.build;
  });

  const params = z.object({ line: ConfigName, version: BuildVersion });
  const changeSchema = {
    tags,
    security,
    params,
    body: ChangeRollOut,
    response: { 200: BuildView },
    summary: "Promote a version at once, or roll it back. Instances of the other play their matches to the end.",
  };
  api.post("/v1/builds/:line/:version/roll-out", { schema: changeSchema }, async ({ params, body }, reply) => {
    const settled = await runtime.ask({ do: "build.change", ...params, to: body.to, reason: body.reason });
    return "refused" in settled ? sendProblem(reply, settled.refused) : settled.reply.build;
  });

  const machinesSchema = {
    tags: ["pools"],
    security,
    response: { 200: MachineList },
    summary: "The machines that instances run on.",
  };
  api.get("/v1/machines", { schema: machinesSchema }, async () =>
    runtime.query(({ state, rules }) => ({ machines: machineViews(state, rules) })),
  );

  const costsSchema = {
    tags: ["pools"],
    security,
    response: { 200: CostsView },
    summary: "What instances have run for, by pool, build, machine and room, and what it costs.",
  };
  api.get("/v1/costs", { schema: costsSchema }, async () =>
    runtime.query(({ state, rules }, atMs) => costsView(state, rules, atMs)),
  );
}

/** A build that could never run, by itself or on this computer, is refused before anything waits for it. */
function refusalOf(spec: BuildSpec, line: string, { pools, machines }: Config, folder: string): Problem | undefined {
  const runsHere = Object.values(pools).some(
    (pool) => pool.build === line && pool.machines.some((name) => machines[name]?.driver === "process"),
  );
  const faults = [...specFaults(spec), ...(runsHere ? runFaults(spec, folder) : [])];
  const [first] = faults;
  if (first === undefined) return undefined;
  const fields = faults.map(({ path, message }) => ({ path: `spec.${path.join(".")}`, message }));
  return problem("request-invalid", `The build cannot be run: ${first.message}.`, { fields });
}
