import type { BuildView, CostRow, PoolView } from "@yellow-harbor/protocol";
import { CirclePause, Play, Undo2 } from "lucide-react";
import { type ReactNode, useState } from "react";
import { store } from "../../live/use-live.ts";
import { useLooks } from "../../live/use-looks.ts";
import { BuildMark } from "../../parts/marks.tsx";
import { May, useMay } from "../../parts/may.tsx";
import { Panel } from "../../parts/panel.tsx";
import { wordsOf } from "../../parts/words.ts";

/** A chosen pool: how many it should run and why, the versions it runs, what it costs, and what may be done about it. */
export function PoolDetail({ pool: id, close }: { pool: string; close: () => void }) {
  const [said, setSaid] = useState<string>();
  const { answer, fault } = useLooks(id, async () => {
    const { operator } = store;
    const [pool, { builds }, costs] = await Promise.all([
      operator.explainPool(id),
      operator.builds(),
      operator.costs(),
    ]);
    return {
      pool,
      builds: builds.filter(({ line }) => line === pool.build),
      cost: costs.pools.find((row) => row.id === id),
    };
  });
  const act = (work: () => Promise<unknown>) => () =>
    void work().then(
      () => setSaid(undefined),
      (error: unknown) => setSaid(wordsOf(error)),
    );
  const word = said ?? fault;
  return (
    <Panel title={`Pool ${id}`} close={close}>
      {word && <p className="text-sm text-warning">{word}</p>}
      {answer ? (
        <>
          <May needs="operate">
            <Verbs pool={answer.pool} act={act} />
          </May>
          <ol className="space-y-1.5 text-sm">
            {answer.pool.text.map((line) => (
              <li key={line} className="rounded-box bg-base-300/60 px-3 py-2">
                {line}
              </li>
            ))}
          </ol>
          <Cost row={answer.cost} />
          <Builds builds={answer.builds} act={act} />
        </>
      ) : (
        <p className="text-sm opacity-70">Loading.</p>
      )}
    </Panel>
  );
}

type Act = (work: () => Promise<unknown>) => () => void;

function Verb({ title, onClick, children }: { title: string; onClick: () => void; children: ReactNode }) {
  return (
    <button type="button" className="btn btn-xs" title={title} onClick={onClick}>
      {children}
    </button>
  );
}

function Verbs({ pool: { id, plan, mode, failures }, act }: { pool: PoolView; act: Act }) {
  if (plan === undefined) return null;
  const set = (next: PoolView["mode"]) => act(() => store.operator.setPoolMode(id, next));
  return (
    <div className="flex flex-wrap gap-2">
      {mode === "open" && (
        <Verb title="Pause the planner: it launches and retires nothing" onClick={set("paused")}>
          <CirclePause size={13} aria-hidden /> Pause the planner
        </Verb>
      )}
      {(mode === "paused" || failures > 0) && (
        <Verb title="Resume the planner, also after instances that did not come up" onClick={set("open")}>
          <Play size={13} aria-hidden /> Let it go on
        </Verb>
      )}
    </div>
  );
}

function Cost({ row }: { row: CostRow | undefined }) {
  if (row === undefined) return null;
  const seconds = Math.round(row.seconds).toLocaleString("en-US");
  return (
    <p className="text-sm opacity-80">
      {seconds} instance-seconds so far
      {row.cost === undefined ? "; no price is configured" : `, at a cost of ${row.cost.toFixed(2)}`}.
    </p>
  );
}

function Builds({ builds, act }: { builds: readonly BuildView[]; act: Act }) {
  const mayDeploy = useMay("deploy");
  return (
    <section className="space-y-1.5 text-sm">
      <h3 className="font-medium">Versions</h3>
      <ul className="space-y-1">
        {builds.map(({ line, version, state, why, running }) => (
          <li key={version} className="rounded-box bg-base-300/60 px-3 py-2">
            <div className="flex items-center gap-2">
              <span className="font-semibold">{version}</span>
              <BuildMark state={state} />
              <span className="flex-1 text-right tabular-nums opacity-80">{running} run</span>
            </div>
            <p className="opacity-80">{why}</p>
            {state === "canary" && mayDeploy && (
              <div className="mt-1 flex gap-2">
                <Verb
                  title="Make it current at once"
                  onClick={act(() => store.operator.changeRollOut(line, version, "promoted"))}
                >
                  <Play size={13} aria-hidden /> Promote
                </Verb>
                <Verb
                  title="Roll it back: no new instance runs it"
                  onClick={act(() => store.operator.changeRollOut(line, version, "rolled-back"))}
                >
                  <Undo2 size={13} aria-hidden /> Roll back
                </Verb>
              </div>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}
