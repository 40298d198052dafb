import { type CreatedKey, type KeyView, OPERATOR_ROLES, type OperatorRole } from "@yellow-harbor/protocol";
import { Ban, CircleCheck, TimerOff } from "lucide-react";
import { useState } from "react";
import { store } from "../../live/use-live.ts";
import { useLooks } from "../../live/use-looks.ts";
import { Empty, plural, Section } from "../../parts/section.tsx";
import { Table, Verb } from "../../parts/table.tsx";
import { span } from "../../parts/time.ts";

type Say = (error: unknown) => void;

/** Keys of operators: for administrators. */
export function Keys({ now, say }: { now: number; say: Say }) {
  const { answer } = useLooks("keys", () => store.operator.keys());
  const [created, setCreated] = useState<CreatedKey>();
  const keys = answer?.keys ?? [];
  const rotate = (id: string) => void store.operator.rotateKey(id).then(setCreated, say);
  const revoke = (id: string) => void store.operator.revokeKey(id).catch(say);
  return (
    <Section id="keys" title="Keys" count={plural(keys.length, "key")}>
      <NewKey made={setCreated} say={say} />
      {created && <Secret created={created} close={() => setCreated(undefined)} />}
      {keys.length === 0 ? (
        <Empty>No keys yet. Give each person and program one of its own, with no more than it needs.</Empty>
      ) : (
        <Table
          rows={keys}
          idOf={({ id }) => id}
          columns={[
            { heading: "Name", value: ({ name }) => name },
            { heading: "Role", value: ({ role }) => role },
            { heading: "State", value: (key) => <KeyMark state={key.state} /> },
            { heading: "Created", value: ({ createdAtMs }) => `${span(now - createdAtMs)} ago` },
            { heading: "Ends", value: ({ endsAtMs }) => (endsAtMs === undefined ? "never" : until(endsAtMs - now)) },
            {
              heading: "Last used",
              value: ({ lastUsedAtMs }) => (lastUsedAtMs === undefined ? "never" : `${span(now - lastUsedAtMs)} ago`),
            },
            { heading: "From", value: ({ lastUsedFrom }) => lastUsedFrom ?? "-", mono: true },
            {
              heading: "",
              value: ({ id, state }) =>
                state === "valid" && (
                  <span className="flex gap-1">
                    <Verb title="A new key; this one works for an hour more" onClick={() => rotate(id)}>
                      Rotate
                    </Verb>
                    <Verb title="This key is worth nothing from now on" onClick={() => revoke(id)}>
                      Revoke
                    </Verb>
                  </span>
                ),
            },
          ]}
        />
      )}
    </Section>
  );
}

const until = (ms: number) => (ms <= 0 ? `${span(-ms)} ago` : `in ${span(ms)}`);

const MARKS = {
  valid: { icon: CircleCheck, colour: "text-success" },
  ended: { icon: TimerOff, colour: "text-warning" },
  revoked: { icon: Ban, colour: "text-error" },
} as const;

function KeyMark({ state }: { state: KeyView["state"] }) {
  const { icon: Icon, colour } = MARKS[state];
  return (
    <span className={`flex items-center gap-1 whitespace-nowrap ${colour}`}>
      <Icon size={14} aria-hidden /> {state}
    </span>
  );
}

function NewKey({ made, say }: { made: (created: CreatedKey) => void; say: Say }) {
  const [name, setName] = useState("");
  const [role, setRole] = useState<OperatorRole>("look");
  const [days, setDays] = useState("");
  const submit = (event: React.FormEvent) => {
    event.preventDefault();
    const wanted = { name: name.trim(), role, ...(days !== "" && { days: Number(days) }) };
    store.operator.createKey(wanted).then((created) => {
      setName("");
      made(created);
    }, say);
  };
  return (
    <form onSubmit={submit} className="mb-3 flex flex-wrap items-end gap-2 text-sm">
      <label className="flex flex-col gap-1">
        Who or what uses it
        <input
          className="input input-sm w-56"
          required
          value={name}
          onChange={(event) => setName(event.target.value)}
        />
      </label>
      <label className="flex flex-col gap-1">
        Role
        <select
          className="select select-sm w-36"
          value={role}
          onChange={(event) => setRole(event.target.value as OperatorRole)}
        >
          {OPERATOR_ROLES.map((one) => (
            <option key={one}>{one}</option>
          ))}
        </select>
      </label>
      <label className="flex flex-col gap-1">
        Days until it ends
        <input
          className="input input-sm w-36"
          type="number"
          min={1}
          max={3650}
          placeholder="never"
          value={days}
          onChange={(event) => setDays(event.target.value)}
        />
      </label>
      <button type="submit" className="btn btn-sm">
        Create a key
      </button>
    </form>
  );
}

/** The one time that a key is shown. */
function Secret({ created: { key, secret }, close }: { created: CreatedKey; close: () => void }) {
  return (
    <div role="status" className="mb-3 flex flex-wrap items-center gap-3 rounded-box bg-base-200 p-3 text-sm">
      <span>
        Key for {key.name}, role {key.role}. Keep it now: it is not shown again.
      </span>
      <code className="select-all break-all rounded bg-base-300 px-2 py-1 text-xs">{secret}</code>
      <Verb title="Hide the key for good" onClick={close}>
        I have it
      </Verb>
    </div>
  );
}
