import { useQuery } from "@tanstack/react-query";
import { addressText, type HarborView } from "@yellow-harbor/protocol";
import { Search } from "lucide-react";
import { type KeyboardEvent, useEffect, useId, useMemo, useRef, useState } from "react";
import { useNavigate } from "react-router";
import { addressOf } from "../live/use-address.ts";
import { store, useLive } from "../live/use-live.ts";
import { AREAS } from "./areas.ts";

const SHOWN = 8;
/** Of each kind at the most, so that one kind does not crowd out the others. */
const OF_EACH = 4;

interface Found {
  readonly to: string;
  readonly kind: string;
  readonly text: string;
}

/** One box that finds whatever there is and goes there: areas, rooms, players, queues, instances. Ctrl+K or / leads to it. */
export function Find() {
  const [text, setText] = useState("");
  const [at, setAt] = useState(0);
  const box = useRef<HTMLInputElement>(null);
  const list = useId();
  const navigate = useNavigate();
  const { state } = useLive();
  const find = text.trim().toLowerCase();
  const { data: players = [] } = useQuery({
    queryKey: ["find", find],
    queryFn: async () => (await store.operator.players({ search: find, limit: OF_EACH })).players,
    enabled: find.length > 1 && state !== undefined,
  });
  const found = useMemo(() => {
    if (find === "" || state === undefined) return [];
    const people = players.map(({ id, name }) => ({
      to: addressOf("people", id),
      kind: "player",
      text: `${name}, ${id}`,
    }));
    return [...foundIn(state, find), ...people].slice(0, SHOWN);
  }, [find, state, players]);
  useEffect(() => {
    const lead = (event: globalThis.KeyboardEvent) => {
      const isTyping = event.target instanceof HTMLElement && /^(input|textarea|select)$/i.test(event.target.tagName);
      if (!(event.key === "k" && (event.ctrlKey || event.metaKey)) && !(event.key === "/" && !isTyping)) return;
      event.preventDefault();
      box.current?.focus();
    };
    addEventListener("keydown", lead);
    return () => removeEventListener("keydown", lead);
  }, []);
  const go = (to: string) => {
    setText("");
    box.current?.blur();
    void navigate(to);
  };
  const onKeyDown = (event: KeyboardEvent) => {
    if (event.key === "Escape") setText("");
    if (event.key === "ArrowDown") setAt((at + 1) % Math.max(found.length, 1));
    if (event.key === "ArrowUp") setAt((at + found.length - 1) % Math.max(found.length, 1));
    const chosen = found[at] ?? found[0];
    if (event.key === "Enter" && find !== "") go(chosen?.to ?? `/rooms?find=${encodeURIComponent(text.trim())}`);
    if (event.key.startsWith("Arrow") && event.key !== "ArrowLeft" && event.key !== "ArrowRight")
      event.preventDefault();
  };
  return (
    <div className="relative order-last w-full sm:order-none sm:ml-4 sm:w-80">
      <label className="input input-sm w-full">
        <Search size={14} aria-hidden />
        <input
          ref={box}
          type="search"
          role="combobox"
          aria-label="Find a room, player or instance"
          aria-expanded={found.length > 0}
          aria-controls={list}
          aria-activedescendant={found.length > 0 ? `${list}-${at}` : undefined}
          placeholder="Find a room, player or instance"
          value={text}
          onChange={(event) => {
            setText(event.target.value);
            setAt(0);
          }}
          onKeyDown={onKeyDown}
        />
        <kbd className="kbd kbd-xs max-sm:hidden">/</kbd>
      </label>
      {find !== "" && (
        <div
          id={list}
          role="listbox"
          aria-label="What was found"
          className="absolute top-full right-0 left-0 z-30 mt-1 rounded-box border border-base-300 bg-base-100 py-1 text-sm shadow-lg"
        >
          {found.map(({ to, kind, text: words }, n) => (
            <div
              key={to}
              id={`${list}-${n}`}
              role="option"
              aria-selected={n === at}
              tabIndex={-1}
              className={`flex cursor-pointer gap-3 px-3 py-1.5 ${n === at ? "bg-base-300" : "hover:bg-base-200"}`}
              onMouseDown={() => go(to)}
            >
              <span className="w-16 shrink-0 opacity-70">{kind}</span>
              <span className="truncate">{words}</span>
            </div>
          ))}
          {found.length === 0 && (
            <p className="px-3 py-1.5 opacity-80">
              Nothing of now has this in it. Enter looks among rooms, also those that have closed, by their code.
            </p>
          )}
        </div>
      )}
    </div>
  );
}

function foundIn({ rooms, instances, queues }: HarborView, find: string): Found[] {
  const has = (...words: readonly string[]) => words.some((word) => word.toLowerCase().includes(find));
  const some = <T,>(all: Iterable<T>, fits: (one: T) => boolean, make: (one: T) => Found): Found[] => {
    const made: Found[] = [];
    for (const one of all) {
      if (made.length === OF_EACH) break;
      if (fits(one)) made.push(make(one));
    }
    return made;
  };
  return [
    ...some(
      AREAS,
      ({ label }) => has(label),
      ({ path, label }) => ({ to: path, kind: "area", text: label }),
    ),
    ...some(
      Object.values(rooms),
      ({ code, name, id }) => has(code, name, id),
      ({ id, code, name, phase }) => ({ to: addressOf("rooms", id), kind: "room", text: `${code}, ${name}, ${phase}` }),
    ),
    ...some(
      Object.values(queues),
      ({ id, title }) => has(id, title),
      ({ id, title }) => ({ to: addressOf("queues", id), kind: "queue", text: title }),
    ),
    ...some(
      Object.values(instances),
      ({ id, pool, address }) => has(id, pool, addressText(address)),
      ({ id, pool, state }) => ({ to: addressOf("fleet", id), kind: "instance", text: `${id} of ${pool}, ${state}` }),
    ),
  ];
}
