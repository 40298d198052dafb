// Plays the whole core, the real runtime around it and a world around that under one seed, and checks after every step
// what must never be: npm run sim -- [--seed N] [--seeds N] [--steps N] [--json].
import { parseArgs } from "node:util";
import { runScript } from "./sim/run.ts";
import { type Step, scriptOf } from "./sim/script.ts";
import { shorten } from "./sim/shorten.ts";

const { values } = parseArgs({
  options: {
    seed: { type: "string", default: String(Date.now() % 1_000_000) },
    seeds: { type: "string", default: "1" },
    steps: { type: "string", default: "20000" },
    json: { type: "boolean", default: false },
  },
});
const [first, seeds, steps] = [Number(values.seed), Number(values.seeds), Number(values.steps)];
const say = (text: string) => process.stderr.write(`${text}\n`);

for (let seed = first; seed < first + seeds; seed++) {
  const begin = performance.now();
  const { kinds, ...run } = await runScript(scriptOf(seed, steps), { seed });
  const perSecond = Math.round(run.steps / ((performance.now() - begin) / 1000));
  const { kills, failedWrites, takenAgain, cuts, clockSets, resumes, instances, acknowledged, refused } = run.counts;
  if (values.json)
    console.log(JSON.stringify({ ok: run.fault === undefined, seed, perSecond, ...run, kinds: kinds.size }));
  else {
    console.log(
      `seed ${seed}: ${run.steps} steps, ${perSecond} a second; ${run.events} events of ${kinds.size} kinds, ${acknowledged} acknowledged, ${refused} refused; ${kills} kills, ${failedWrites} failed writes, ${takenAgain} of them outlived, ${cuts} cuts, ${resumes} resumes, ${clockSets} settings of the clock, ${instances} instances; digest ${run.digest}`,
    );
  }
  if (run.fault) await tell(seed, run.fault);
}

async function tell(
  seed: number,
  { code, text, atStep }: { code: string; text: string; atStep: number },
): Promise<never> {
  say(`seed ${seed}: ${code} at step ${atStep}: ${text}`);
  say("shortening …");
  const fails = async (script: readonly Step[]) =>
    (await runScript(script, { seed, compareEvery: 1 })).fault?.code === code;
  const script = await shorten([...scriptOf(seed, atStep)], fails);
  const { fault } = await runScript(script, { seed, compareEvery: 1 });
  say(`${script.length} steps are enough: ${fault?.text ?? ""}`);
  for (const step of script) console.log(JSON.stringify(step));
  process.exit(1);
}
