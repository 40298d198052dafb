import { keepPreviousData, useInfiniteQuery } from "@tanstack/react-query";
import { type HarborView, isDevice, type PlayerView } from "@yellow-harbor/protocol";
import { CircleDot, CircleDotDashed } from "lucide-react";
import { useCallback, useMemo } from "react";
import { useInAddress } from "../../live/use-address.ts";
import { store } from "../../live/use-live.ts";
import { Choice, Contains, Filters } from "../../parts/filters.tsx";
import { Grid, type GridColumn } from "../../parts/grid.tsx";
import { Empty, plural, Section } from "../../parts/section.tsx";
import { wordsOf } from "../../parts/words.ts";

const PAGE = 200;
const LOOK_MS = 3_000;

interface PlayersProps {
  readonly state: HarborView;
  readonly open: string | undefined;
  readonly choose: (player: string) => void;
}

/** Who is in the harbor, and where; more are asked for as far as somebody scrolls. */
export function Players({ state, open, choose }: PlayersProps) {
  const [find] = useInAddress("find");
  const [lobby] = useInAddress("lobby");
  const [presence] = useInAddress("presence");
  const wanted = { limit: PAGE, ...(find && { search: find }), ...(lobby && { lobby }), ...ofPresence(presence) };
  const asked = useInfiniteQuery({
    queryKey: ["players", find, lobby, presence],
    queryFn: ({ pageParam }) => store.operator.players({ ...wanted, ...(pageParam && { after: pageParam }) }),
    initialPageParam: "",
    getNextPageParam: (last) => last.next,
    placeholderData: keepPreviousData,
    refetchInterval: LOOK_MS,
  });
  const players = useMemo(() => asked.data?.pages.flatMap((page) => page.players) ?? [], [asked.data]);
  const { hasNextPage, isFetching, fetchNextPage } = asked;
  const more = useCallback(() => {
    if (hasNextPage && !isFetching) void fetchNextPage();
  }, [hasNextPage, isFetching, fetchNextPage]);
  const columns = useMemo(() => columnsFor(state.lobbies, state.rooms), [state.lobbies, state.rooms]);
  const isNarrowed = `${find}${lobby}${presence}` !== "";
  return (
    <Section
      id="players"
      title="Players"
      count={`${plural(players.length, "player")}${hasNextPage ? " so far; scroll for more" : ""}`}
      fills
    >
      <Filters>
        <Contains placeholder="Name, id or account" />
        <Choice
          name="lobby"
          label="Lobby"
          any="all"
          options={Object.values(state.lobbies).map(({ id, title }) => [id, title] as const)}
        />
        <Choice
          name="presence"
          label="Presence"
          options={[
            ["here", "here"],
            ["away", "away"],
          ]}
        />
      </Filters>
      {asked.error && <p className="mb-2 text-error text-sm">{wordsOf(asked.error)}</p>}
      {players.length === 0 ? (
        <Empty>
          {asked.isPending ? (
            "Loading."
          ) : isNarrowed ? (
            "No player fits."
          ) : (
            <>
              Nobody is here. <code>yh play --name Ansel</code> brings somebody, and so does{" "}
              <a className="link" href="#/try">
                Try it
              </a>
              .
            </>
          )}
        </Empty>
      ) : (
        <Grid
          label="Players"
          rows={players}
          columns={columns}
          idOf={({ id }) => id}
          open={open}
          choose={choose}
          onEnd={more}
        />
      )}
    </Section>
  );
}

const ofPresence = (presence: string): { presence?: "here" | "away" } =>
  presence === "here" || presence === "away" ? { presence } : {};

const columnsFor = (lobbies: HarborView["lobbies"], rooms: HarborView["rooms"]): readonly GridColumn<PlayerView>[] => {
  const codeOf = (room: string | undefined) => (room === undefined ? "-" : (rooms[room]?.code ?? room));
  const lobbyOf = (lobby: string) => lobbies[lobby]?.title ?? lobby;
  return [
    {
      id: "name",
      heading: "Name",
      sortBy: ({ name }) => name,
      cell: ({ name }) => (
        <button type="button" className="link link-hover">
          {name}
        </button>
      ),
    },
    {
      id: "presence",
      heading: "Presence",
      sortBy: ({ presence }) => presence,
      cell: ({ presence }) => <PresenceMark presence={presence} />,
    },
    { id: "lobby", heading: "Lobby", sortBy: ({ lobby }) => lobbyOf(lobby), cell: ({ lobby }) => lobbyOf(lobby) },
    { id: "room", heading: "Room", isMono: true, sortBy: ({ room }) => codeOf(room), cell: ({ room }) => codeOf(room) },
    { id: "account", heading: "Account", isMono: true, sortBy: accountText, cell: accountText },
    {
      id: "latency",
      heading: "Latency",
      isFigure: true,
      sortBy: ({ latencyMs }) => latencyMs ?? -1,
      cell: ({ latencyMs, jitterMs }) => (latencyMs === undefined ? "-" : `${latencyMs} ms ±${jitterMs}`),
    },
    { id: "build", heading: "Build", isMono: true, sortBy: ({ build }) => build, cell: ({ build }) => build },
  ];
};

/** A guest who keeps a device key has an account of its own, that says nothing to anybody. */
export const accountText = ({ account }: Pick<PlayerView, "account">): string =>
  account === undefined || isDevice(account) ? "guest" : account;

export function PresenceMark({ presence }: { presence: PlayerView["presence"] }) {
  const Icon = presence === "here" ? CircleDot : CircleDotDashed;
  return (
    <span
      className={`flex items-center gap-1 whitespace-nowrap ${presence === "here" ? "text-success" : "text-warning"}`}
    >
      <Icon size={14} aria-hidden /> {presence}
    </span>
  );
}
