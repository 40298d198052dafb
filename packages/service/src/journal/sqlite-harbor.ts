import { join } from "node:path";
import { Worker } from "node:worker_threads";
import { type BirpcReturn, createBirpc } from "birpc";
import { HistoryReader } from "../history/history.ts";
import { type EventLog, LogRejection } from "./event-log.ts";
import { DATABASE_FILE, threadFile } from "./files.ts";
import type { HarborHistory } from "./harbor-history.ts";
import type { Found, KeptHarbor } from "./kept-harbor.ts";
import { packBatch, unpackRows } from "./packing.ts";
import type { Snapshots } from "./snapshots.ts";
import type { StoreCalls, StoreOpening } from "./sqlite-thread.ts";

/** A data folder that cannot be opened. */
export class OpenError extends Error {
  readonly code: "data-locked" | "data-unusable";
  constructor(code: "data-locked" | "data-unusable", message: string) {
    super(message);
    this.code = code;
  }
}

type Store = BirpcReturn<StoreCalls>;
type Opened = Extract<StoreOpening, { opened: true }>;

/** Opens the embedded harbor. SQLite lives in a thread of its own, so that a slow disk never holds the event loop. */
export async function openSqliteHarbor(folder: string): Promise<KeptHarbor> {
  const thread = idle.pop() ?? startThread();
  thread.worker.ref();
  const { store, letGo } = held(thread.store);
  const asked = store.open(folder);
  // Asked for before anything is known: it is read as soon as the file is open, while this thread still loads.
  const snapshot = newestOf(store);
  const opening = await asked;
  if (!opening.opened) {
    letGo();
    await thread.worker.terminate();
    throw new OpenError(opening.code, opening.message);
  }
  const history = new HistoryReader(join(folder, DATABASE_FILE));
  return {
    ...foundOf(store, opening, snapshot),
    secret: opening.secret,
    snapshots: snapshotsOf(store),
    history: historyOf(store, history),
    // The store has the calls for both by their names.
    operators: store,
    webhooks: store,
    reopen: () => reopened(store),
    close: async () => {
      if (store.$closed) return;
      await history.close();
      await store.close();
      letGo();
      await rest(thread);
    },
  };
}

async function reopened(store: Store): Promise<Found> {
  const opening = await store.reopen().catch((error: Error) => ({ opened: false as const, message: error.message }));
  if (!opening.opened) throw new LogRejection("away", opening.message);
  return foundOf(store, opening, newestOf(store));
}

function newestOf(store: Store): Found["snapshot"] {
  const snapshot = store.newestSnapshot();
  // Who awaits it hears of a failure.
  snapshot.catch(() => undefined);
  return snapshot;
}

const foundOf = (store: Store, { epoch, lastSeq, lastAtMs }: Opened, snapshot: Found["snapshot"]): Found => ({
  eventLog: eventLogOf(store, epoch),
  lastSeq,
  lastAtMs,
  snapshot,
});

const eventLogOf = (store: Store, epoch: number): EventLog => ({
  epoch,
  append: async (batch, expectedSeq) => {
    const rejected = await store
      .append(packBatch(batch), { epoch, expectedSeq })
      .catch((error: Error) => ({ code: "away" as const, message: error.message }));
    if (rejected) throw new LogRejection(rejected.code, rejected.message);
  },
  read: async (fromSeq, limit) => unpackRows(await store.read(fromSeq, limit)),
  trim: (keep, version, limit) => store.trim(keep, version, limit),
});

const snapshotsOf = (store: Store): Snapshots => ({
  newest: () => store.newestSnapshot(),
  put: (snapshot, spacing) => store.writeSnapshot(snapshot, spacing),
});

/** The log is its own history: the same file is read, beside the one who writes it. */
const historyOf = (store: Store, history: HistoryReader): HarborHistory => ({
  events: async (fromSeq, limit) => unpackRows(await store.read(fromSeq, limit)),
  snapshotAt: (seq) => history.ask({ do: "snapshot", seq }),
  room: (question) => history.ask({ do: "room", question }),
  player: (question) => history.ask({ do: "player", question }),
  check: () => history.check(),
  copyTo: (file, { withSecret }) => history.ask({ do: "copy", to: file, withSecret }),
  instanceRecords: (query) => store.instanceRecords(query),
  instanceRecord: (instance) => store.instanceRecord(instance),
  personEvents: (who) => history.ask({ do: "person", who }),
  erasePerson: (who) => store.erasePerson(who),
});

interface StoreThread {
  readonly worker: Worker;
  readonly store: Store;
}

/** A thread takes longer to load than to open a harbor: one whose harbor was closed waits for the next, and keeps nobody up. */
const idle: StoreThread[] = [];
const IDLE_MAX = 2;

async function rest(thread: StoreThread): Promise<void> {
  if (idle.length >= IDLE_MAX) return void (await thread.worker.terminate());
  thread.worker.unref();
  idle.push(thread);
}

function startThread(): StoreThread {
  // Rows live for one commit: with little room for the young they are collected at once, instead of backfill 48 MiB first.
  const resourceLimits = { maxYoungGenerationSizeMb: 6 };
  const worker = new Worker(threadFile("sqlite-thread", import.meta.url), { execArgv: [], resourceLimits });
  const thread = { worker, store: storeIn(worker) };
  worker.once("exit", () => {
    const n = idle.indexOf(thread);
    if (n >= 0) idle.splice(n, 1);
  });
  return thread;
}

/** The store for the one harbor that is opened now: once let go of, it speaks for no other. */
function held(store: Store): { readonly store: Store; readonly letGo: () => void } {
  let isHeld = true;
  const closed = async () => {
    throw new Error("the harbor was closed");
  };
  const own = new Proxy(store, {
    get: (calls, name) => {
      if (name === "$closed") return !isHeld || calls.$closed;
      return isHeld ? calls[name as keyof Store] : closed;
    },
  });
  return {
    store: own,
    letGo: () => {
      isHeld = false;
    },
  };
}

/** The store in its thread. Once that has ended, every call is rejected with why. */
function storeIn(thread: Worker): Store {
  const store = createBirpc<StoreCalls>(
    {},
    {
      post: (message) => thread.postMessage(message),
      on: (take) => thread.on("message", take),
      // A slow disk is waited for: what watches over it are the time-outs of who is served.
      timeout: -1,
    },
  );
  thread.on("error", (error) => store.$close(error as Error));
  thread.on("exit", () => store.$close(new Error("the journal's thread has ended")));
  return store;
}
