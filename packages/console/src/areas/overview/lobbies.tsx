import type { LobbySummary } from "@yellow-harbor/protocol";
import { Link } from "react-router";
import { plural, Section } from "../../parts/section.tsx";

/** The lobbies with how many are where; each leads to its rooms. */
export function Lobbies({ lobbies }: { lobbies: readonly LobbySummary[] }) {
  return (
    <Section id="lobbies" title="Lobbies" count={plural(lobbies.length, "lobby").replace("lobbys", "lobbies")}>
      <ul className="grid gap-3 sm:grid-cols-2">
        {lobbies.map((lobby) => (
          <li key={lobby.id} className="rounded-box bg-base-200 px-4 py-3">
            <div className="flex items-baseline justify-between">
              <Link className="link-hover font-medium" to={`/rooms?lobby=${encodeURIComponent(lobby.id)}`}>
                {lobby.title}
              </Link>
              <span className="font-mono text-xs opacity-70">{lobby.id}</span>
            </div>
            <dl className="mt-2 flex gap-6 text-sm">
              <Figure label="in the lobby" value={lobby.players} />
              <Figure label="in rooms" value={lobby.inRooms} />
              <Figure label="searching" value={lobby.searching} />
              <Figure label="rooms" value={lobby.rooms} />
            </dl>
          </li>
        ))}
      </ul>
    </Section>
  );
}

function Figure({ label, value }: { label: string; value: number }) {
  return (
    <div>
      <dd className="font-semibold text-xl tabular-nums leading-tight">{value}</dd>
      <dt className="text-xs opacity-70">{label}</dt>
    </div>
  );
}
