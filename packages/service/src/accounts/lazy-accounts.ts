import type { AccountsConfig } from "../config/accounts.ts";
import type { AccountTokens } from "./account-tokens.ts";

/** Loads what checks account tokens with the first one that is shown: a service need not wait for it to be ready. */
export function lazyAccounts(
  accounts: AccountsConfig,
  folder: string,
  now: () => number,
): Pick<AccountTokens, "check"> {
  let loading: Promise<AccountTokens> | undefined;
  return {
    check: async (token) => {
      loading ??= import("./account-tokens.ts").then((loaded) => new loaded.AccountTokens(accounts, folder, now));
      return (await loading).check(token);
    },
  };
}
