import Database from "better-sqlite3";
import type { PersonKept } from "../journal/harbor-history.ts";
import { eventsOf, findPerson } from "../journal/person.ts";

/** What a journal knows of an account, or of the id of a player. */
export function personKept(file: string, who: string): PersonKept {
  const sqlite = new Database(file, { readonly: true });
  try {
    return sqlite.transaction(() => {
      const person = findPerson(sqlite, who);
      const { players, account, names } = person;
      const known = { players: [...players], names: [...names], ...(account !== undefined && { account }) };
      return { ...known, ...eventsOf(sqlite, person) };
    })();
  } finally {
    sqlite.close();
  }
}
