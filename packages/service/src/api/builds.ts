import { buildViews } from "@yellow-harbor/core";
import { type BuildSpec, linesOf, type OperatorRoutes, type Problem, problem } from "@yellow-harbor/protocol";
import { runFaults } from "../config/commands.ts";
import { specFaults } from "../config/references.ts";
import type { Config } from "../config/schema.ts";
import type { ApiParts } from "./parts.ts";
import type { Handlers } from "./serve-routes.ts";

type BuildRoutes = Pick<OperatorRoutes, "builds" | "addBuild" | "changeRollOut">;

/** Versions of dedicated servers, and how they take over. */
export const buildHandlers = ({ runtime, inForce, workingFolder }: ApiParts): Handlers<BuildRoutes> => ({
  builds: () => runtime.query(({ state }) => ({ builds: buildViews(state) })),

  addBuild: async ({ params: { line }, body: { spec, rollOut } }) => {
    const faulty = refusalOf(spec, line, inForce.current, workingFolder);
    if (faulty) return { refused: faulty };
    const settled = await runtime.ask({ do: "build.add", line, spec, rollOut });
    return "refused" in settled ? settled : settled.reply.build;
  },

  changeRollOut: async ({ params, body: { to, reason } }) => {
    const settled = await runtime.ask({ do: "build.change", ...params, to, reason });
    return "refused" in settled ? settled : settled.reply.build;
  },
});

/** A build that could never run, by itself or on this computer, is refused before anything waits for it. */
function refusalOf(
  spec: BuildSpec,
  line: string,
  { pools, machines, secrets }: Config,
  folder: string,
): Problem | undefined {
  const runsHere = Object.values(pools).some(
    (pool) => linesOf(pool).includes(line) && pool.machines.some((name) => machines[name]?.driver === "process"),
  );
  const faults = [...specFaults(spec, Object.keys(secrets)), ...(runsHere ? runFaults(spec, folder) : [])];
  const [first] = faults;
  if (first === undefined) return undefined;
  const fields = faults.map(({ path, message }) => ({ path: `spec.${path.join(".")}`, message }));
  return problem("request-invalid", `The build cannot be run: ${first.message}.`, { fields });
}
