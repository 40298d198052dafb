import type { Server as HttpServer } from "node:http";
import { Server as HttpsServer } from "node:https";
import { resolve } from "node:path";
import type { Logger } from "pino";
import type { Config } from "../config/schema.ts";
import { StartError } from "../start.ts";
import { type Certificate, type CertificateFiles, followCertificate, readCertificate } from "./certificate.ts";
import { redirectToTls } from "./redirect.ts";

/** TLS by the service itself: its certificate, as long as the service runs, and the way there for whoever comes without. */
export class Tls {
  readonly #listen: Config["listen"];
  readonly #files: CertificateFiles;
  readonly #log: Logger;
  readonly certificate: Certificate;
  #stopFollowing: () => void = () => undefined;
  #redirect: HttpServer | undefined;

  /** Throws {@link StartError} when the files cannot be used. */
  constructor(listen: Config["listen"], folder: string, log: Logger) {
    const { certFile = "", keyFile = "" } = listen.tls ?? {};
    this.#listen = listen;
    this.#files = { certFile: resolve(folder, certFile), keyFile: resolve(folder, keyFile) };
    this.#log = log;
    try {
      this.certificate = readCertificate(this.#files);
    } catch (error) {
      throw new StartError("config-invalid", `listen.tls cannot be used: ${(error as Error).message}.`);
    }
  }

  async begin(server: HttpServer): Promise<void> {
    if (server instanceof HttpsServer) this.#stopFollowing = followCertificate(server, this.#files, this.#log);
    const { host, url = "", tls } = this.#listen;
    if (tls?.redirectPort !== undefined) this.#redirect = await redirectToTls(host, tls.redirectPort, url);
  }

  end(): void {
    this.#stopFollowing();
    this.#redirect?.close();
  }
}
