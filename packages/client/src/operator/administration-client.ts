import type {
  AuditCheck,
  AuditPage,
  BanList,
  BanView,
  ConfigApplied,
  ConfigChanges,
  CreatedKey,
  DeadChosen,
  DeadPage,
  Draining,
  KeyList,
  KeyView,
  LogInLink,
  OperatorRole,
  PersonErased,
  PersonExport,
  SessionList,
  WebhookList,
  WebhookTested,
  WhoAmI,
} from "@yellow-harbor/protocol";
import { OperatorHttp, type OperatorOptions } from "./http.ts";

/** What is asked of keys, sessions, persons, bans, the audit log and webhooks: of who may do what, and who is told. */
export class AdministrationClient {
  protected readonly http: OperatorHttp;

  constructor(options: OperatorOptions) {
    this.http = new OperatorHttp(options);
  }

  /** The configuration that holds now, with every default filled in. */
  config(): Promise<{ config: Record<string, unknown> }> {
    return this.http.call("config");
  }

  /** What the service's configuration file has that does not hold now. */
  configChanges(): Promise<ConfigChanges> {
    return this.http.call("configChanges");
  }

  /** Has the service read its configuration file again and take what it can take now. */
  applyConfig(): Promise<ConfigApplied> {
    return this.http.call("applyConfig");
  }

  /** Stops the service: players are told to come back after so many seconds, there or at another address. */
  drain(how: { backInS?: number; url?: string } = {}): Promise<Draining> {
    return this.http.call("drain", { body: how });
  }

  /** Keys of operators, without their secrets. */
  keys(): Promise<KeyList> {
    return this.http.call("keys");
  }

  /** Creates a key. Its secret is in the answer and nowhere else. `days` until it ends; never when absent. */
  createKey(key: { name: string; role: OperatorRole; days?: number }): Promise<CreatedKey> {
    return this.http.call("createKey", { body: key });
  }

  /** Creates a key in the place of another, which works on for the overlap. */
  rotateKey(key: string, overlapMinutes = 60): Promise<CreatedKey> {
    return this.http.call("rotateKey", { params: { key }, body: { overlapMinutes } });
  }

  /** Revokes a key: it is worth nothing from now on. */
  revokeKey(key: string): Promise<KeyView> {
    return this.http.call("revokeKey", { params: { key } });
  }

  /** All that is kept of an account, or of a guest by the id of its player. */
  exportPerson(who: string): Promise<PersonExport> {
    return this.http.call("exportPerson", { params: { who } });
  }

  /** Replaces the names and the account of a person in all that is kept. */
  erasePerson(who: string): Promise<PersonErased> {
    return this.http.call("erasePerson", { params: { who } });
  }

  /** Bans that count now. */
  bans(query: { limit?: number; after?: string } = {}): Promise<BanList> {
    return this.http.call("bans", { query });
  }

  /** Bans an account, or an address or network: whoever is concerned and here is kicked. Without `hours` for good. */
  createBan(
    whom: { account: string } | { network: string; everybody?: boolean },
    how: { reason?: string; hours?: number } = {},
  ): Promise<BanView> {
    return this.http.call("createBan", { body: { ...whom, ...how } });
  }

  /** Bans a player by its account; a guest without a device key by the network it comes from. */
  banPlayer(player: string, how: { reason?: string; hours?: number } = {}): Promise<BanView> {
    return this.http.call("banPlayer", { params: { player }, body: how });
  }

  liftBan(ban: string): Promise<BanView> {
    return this.http.call("liftBan", { params: { ban } });
  }

  /** What operators did and tried, the newest first. */
  audit(query: { limit?: number; before?: number; name?: string; action?: string } = {}): Promise<AuditPage> {
    return this.http.call("audit", { query });
  }

  /** Whether every entry of the audit log is there as it was written. */
  checkAudit(): Promise<AuditCheck> {
    return this.http.call("checkAudit");
  }

  /** All webhooks, and how sending goes. */
  webhooks(): Promise<WebhookList> {
    return this.http.call("webhooks");
  }

  /** Events that were given up for a webhook, the oldest first. */
  deadEvents(webhook: string, query: { limit?: number; after?: number } = {}): Promise<DeadPage> {
    return this.http.call("deadEvents", { params: { webhook }, query });
  }

  /** Sends events again that were given up: all, or some by their numbers. */
  resendEvents(webhook: string, numbers?: number[]): Promise<DeadChosen> {
    return this.http.call("resendEvents", { params: { webhook }, body: { numbers } });
  }

  discardEvents(webhook: string, numbers?: number[]): Promise<DeadChosen> {
    return this.http.call("discardEvents", { params: { webhook }, body: { numbers } });
  }

  /** Sends a test event now, once. */
  testWebhook(webhook: string): Promise<WebhookTested> {
    return this.http.call("testWebhook", { params: { webhook } });
  }

  /** Begins a session in this browser, with a key or the code of a link. */
  logIn(by: { key: string } | { code: string }): Promise<WhoAmI> {
    return this.http.call("logIn", { body: by });
  }

  logOut(): Promise<object> {
    return this.http.call("logOut");
  }

  whoAmI(): Promise<WhoAmI> {
    return this.http.call("whoAmI");
  }

  /** Sessions of the console: of one's own key, or all for whoever administers. */
  sessions(): Promise<SessionList> {
    return this.http.call("sessions");
  }

  endSession(session: string): Promise<object> {
    return this.http.call("endSession", { params: { session } });
  }

  /** A code that logs one browser in to the console, once. */
  logInLink(): Promise<LogInLink> {
    return this.http.call("logInLink");
  }
}
