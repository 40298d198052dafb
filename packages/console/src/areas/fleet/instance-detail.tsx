import { addressText, type InstanceView, shownText } from "@yellow-harbor/protocol";
import { useEffect, useRef, useState } from "react";
import { store } from "../../live/use-live.ts";
import { Id } from "../../parts/id.tsx";
import { StateMark } from "../../parts/marks.tsx";
import { Fact, Panel } from "../../parts/panel.tsx";
import { span } from "../../parts/time.ts";

const OUTPUT_MAX = 20_000;
const FOUND_IN_BYTES = 67_108_864;

/** A chosen instance: why it is as it is, who has a berth, and what it prints. */
export function InstanceDetail({ instance, now, close }: { instance: InstanceView; now: number; close: () => void }) {
  const {
    id,
    state,
    why,
    changedAtMs,
    address,
    pid,
    berths,
    exit,
    build,
    version,
    pool,
    machine,
    placed,
    differences,
  } = instance;
  return (
    <Panel title={`Instance ${id.slice(0, 7)}…`} close={close}>
      <dl className="grid grid-cols-[6rem_1fr] gap-y-1 text-sm">
        <Fact label="state">
          <StateMark state={state} /> <span className="opacity-70">for {span(now - changedAtMs)}</span>
        </Fact>
        <Fact label="why">{why}</Fact>
        <Fact label="address">
          <span className="font-mono text-xs">{addressText(address)}</span>
        </Fact>
        <Fact label="process">{pid ?? "not started"}</Fact>
        {exit && (
          <Fact label="exit">{exit.signal ?? (exit.code === undefined ? "nobody saw it" : `code ${exit.code}`)}</Fact>
        )}
        <Fact label="pool, build">
          {pool}, {build} {version}
        </Fact>
        <Fact label="machine">{placed ?? machine}</Fact>
        {differences && <Fact label="differs">{differences.map(({ text }) => text).join("; ")}</Fact>}
        <Fact label="berths">
          {berths.length === 0 ? "none reserved" : berths.map((berth) => `${berth.name} ${berth.state}`).join(", ")}
        </Fact>
        <Fact label="id">
          <Id id={id} />
        </Fact>
      </dl>
      <Output id={id} />
    </Panel>
  );
}

/** What the instance prints, as it prints it. */
function Output({ id }: { id: string }) {
  const [text, setText] = useState("");
  const [find, setFind] = useState("");
  const wanted = find.trim();
  const box = useRef<HTMLPreElement>(null);
  useEffect(() => {
    const abort = new AbortController();
    setText("");
    const read = async () => {
      for await (const chunk of store.operator.output(
        id,
        wanted === "" ? { follow: true } : { follow: true, find: wanted, tailBytes: FOUND_IN_BYTES },
        abort.signal,
      )) {
        setText((before) => (before + chunk).slice(-OUTPUT_MAX));
      }
    };
    read().catch((error: unknown) => {
      if (!abort.signal.aborted) setText((before) => `${before}\n(the output broke off: ${(error as Error).message})`);
    });
    return () => abort.abort();
  }, [id, wanted]);
  useEffect(() => {
    if (text && box.current) box.current.scrollTop = box.current.scrollHeight;
  }, [text]);
  return (
    <div>
      <div className="mb-1 flex items-center gap-2">
        <h3 className="flex-1 text-sm opacity-70">Output</h3>
        <input
          type="search"
          className="input input-xs w-36"
          placeholder="Find in it"
          value={find}
          onChange={(event) => setFind(event.target.value)}
        />
      </div>
      <pre
        ref={box}
        className="max-h-72 overflow-auto whitespace-pre-wrap rounded-field bg-base-100 p-3 font-mono text-xs leading-relaxed"
      >
        {shownText(text, "\n\t") || (wanted === "" ? "Nothing printed yet." : "No line contains this.")}
      </pre>
    </div>
  );
}
