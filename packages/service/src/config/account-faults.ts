import { keySourceOf } from "../accounts/key-source.ts";
import type { Fault } from "./fault.ts";
import type { Config } from "./schema.ts";

/** Files of keys that are not there, or hold no keys; two issuers that nothing tells apart. */
export function accountFaults({ players: { accounts } }: Config, folder: string): Fault[] {
  const seen = new Map<string, string>();
  return Object.entries(accounts.issuers).flatMap(([name, issuer]): Fault[] => {
    const path = ["players", "accounts", "issuers", name];
    const other = seen.get(issuer.issuer);
    seen.set(issuer.issuer, name);
    const twice: Fault[] =
      other === undefined ? [] : [{ path: [...path, "issuer"], message: `is that of ${other} too` }];
    const key = (["secretFile", "publicKeyFile", "jwksFile"] as const).find((one) => issuer[one] !== undefined);
    if (key === undefined) return twice;
    try {
      keySourceOf(issuer, folder);
      return twice;
    } catch (error) {
      const { code, message } = error as NodeJS.ErrnoException;
      const why = code === "ENOENT" ? "is not there" : code === "EACCES" ? "may not be read" : message;
      return [...twice, { path: [...path, key], message: `${issuer[key]} ${why}` }];
    }
  });
}
