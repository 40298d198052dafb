import { Plus } from "lucide-react";
import { useState } from "react";
import { useInAddress } from "../../live/use-address.ts";
import { store, useHarbor } from "../../live/use-live.ts";
import { useLooks } from "../../live/use-looks.ts";
import { Columns } from "../../parts/columns.tsx";
import { Choice } from "../../parts/filters.tsx";
import { Empty, plural, Section } from "../../parts/section.tsx";
import { Card } from "./card.tsx";
import { TryClient } from "./try-client.ts";

const CLIENTS_MAX = 6;
const NAMES = ["Ansel", "Brisa", "Corin", "Dovie", "Edda", "Fenn"];
const LOOK_MS = 30_000;

/** They stay while other pages are looked at: how a rule works is seen from both sides. */
const kept: TryClient[] = [];

/** Players in this page, each a real connection through the SDK: the quickest way to see a rule at work. */
export function TryPage() {
  const { lobbies, queues } = useHarbor();
  const [clients, setClients] = useState<readonly TryClient[]>([...kept]);
  const [lobby] = useInAddress("lobby");
  const { answer, fault } = useLooks("offered", offered, LOOK_MS);
  const isFull = clients.length >= CLIENTS_MAX;
  const add = () => {
    const name = NAMES.find((one) => clients.every((client) => client.name !== one)) ?? "Gorm";
    const client = new TryClient(name);
    kept.push(client);
    setClients([...kept]);
    void client.connect(answer?.build ?? "", lobby || Object.keys(lobbies)[0]);
  };
  const remove = (client: TryClient) => {
    kept.splice(kept.indexOf(client), 1);
    setClients([...kept]);
    void client.leave();
  };
  const inLobby = Object.values(queues).filter((queue) => lobby === "" || queue.lobby === lobby);
  return (
    <Columns>
      <Section id="try" title="Try it" count={`${plural(clients.length, "player")} of ${CLIENTS_MAX}`}>
        <p className="mb-3 max-w-prose text-sm opacity-80">
          Each is a real player with a connection of its own, as a game has it. Cut its line, make it slow, and see in
          Rooms, Queues and Events what the service makes of it.
        </p>
        <div className="mb-4 flex flex-wrap items-center gap-3 text-sm">
          <button
            type="button"
            className="btn btn-sm btn-primary"
            disabled={isFull || answer === undefined}
            onClick={add}
          >
            <Plus size={14} aria-hidden /> Add a player
          </button>
          <Choice
            name="lobby"
            label="Lobby"
            any="the first"
            options={Object.values(lobbies).map(({ id, title }) => [id, title] as const)}
          />
        </div>
        {fault && <p className="mb-2 text-error text-sm">{fault}</p>}
        {clients.length === 0 ? (
          <Empty>Nobody yet. Add two players, open a room with one, and join it by its code with the other.</Empty>
        ) : (
          <div className="grid gap-4 md:grid-cols-2 2xl:grid-cols-3">
            {clients.map((client) => (
              <Card
                key={client.name}
                client={client}
                offered={{
                  kinds: answer?.kinds ?? [],
                  levels: answer?.levels ?? [],
                  queues: inLobby.map(({ id }) => id),
                }}
                remove={() => remove(client)}
              />
            ))}
          </div>
        )}
      </Section>
    </Columns>
  );
}

async function offered() {
  const { operator } = store;
  const [{ accepts }, { levels }, { kinds }] = await Promise.all([
    operator.about(),
    operator.levels(),
    operator.roomKinds(),
  ]);
  return { build: accepts[0] ?? "", levels, kinds: kinds.map(({ id }) => id) };
}
