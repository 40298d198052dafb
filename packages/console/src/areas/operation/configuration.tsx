import { store } from "../../live/use-live.ts";
import { useLooks } from "../../live/use-looks.ts";
import { Empty, plural, Section } from "../../parts/section.tsx";
import { Table, Verb } from "../../parts/table.tsx";

const SHORT = 60;
/** The file is read anew each time. */
const LOOK_MS = 10_000;

const shown = (value: unknown): string => {
  const text = value === undefined ? "nothing" : JSON.stringify(value);
  return text.length > SHORT ? `${text.slice(0, SHORT - 1)}…` : text;
};

interface ConfigurationProps {
  readonly say: (text: string) => void;
  readonly fault: (error: unknown) => void;
}

/** What the configuration file has that does not hold now, and taking it. */
export function Configuration({ say, fault }: ConfigurationProps) {
  const { answer, fault: unread } = useLooks("configuration", () => store.operator.configChanges(), LOOK_MS);
  const changes = answer?.changes ?? [];
  const atOnce = changes.filter(({ takes }) => takes === "at-once").length;
  const apply = () =>
    void store.operator.applyConfig().then(({ changes: all }) => {
      const taken = all.filter(({ takes }) => takes === "at-once").length;
      say(`${plural(taken, "value")} taken. ${all.length - taken} more after a restart.`);
    }, fault);
  const count =
    unread !== undefined
      ? "cannot be read"
      : changes.length === 0
        ? "as in the file"
        : plural(changes.length, "change");
  return (
    <Section id="configuration" title="Configuration" count={count}>
      {unread !== undefined ? (
        <p className="rounded-box bg-base-200 px-4 py-3 text-sm text-warning">{unread}</p>
      ) : changes.length === 0 ? (
        <Empty>
          The service runs with what its file has. Edit the file, and what would change stands here before it is taken.
        </Empty>
      ) : (
        <>
          <p className="mb-2 flex items-center gap-3 text-sm">
            {atOnce > 0 && answer?.needsRestart === undefined && (
              <Verb title="Take what can be taken while the service runs; nobody loses anything" onClick={apply}>
                Apply {plural(atOnce, "change")}
              </Verb>
            )}
            {answer?.needsRestart !== undefined && (
              <span className="text-warning">Nothing can be taken without a restart: {answer.needsRestart}.</span>
            )}
          </p>
          <Table
            rows={changes}
            idOf={({ path }) => path}
            columns={[
              { heading: "Key", value: ({ path }) => path, mono: true },
              { heading: "Holds now", value: ({ before }) => shown(before), mono: true },
              { heading: "In the file", value: ({ after }) => shown(after), mono: true },
              { heading: "Taken", value: ({ takes }) => (takes === "at-once" ? "at once" : "after a restart") },
            ]}
          />
        </>
      )}
    </Section>
  );
}
