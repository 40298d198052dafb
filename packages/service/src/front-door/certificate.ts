import { createPrivateKey, X509Certificate } from "node:crypto";
import { readFileSync, unwatchFile, watchFile } from "node:fs";
import type { Server as HttpsServer } from "node:https";
import type { Logger } from "pino";

/** How often the files are looked at. A new certificate is there weeks before the old one ends. */
const LOOK_EVERY_MS = 5_000;

export interface CertificateFiles {
  readonly certFile: string;
  readonly keyFile: string;
}

export interface Certificate {
  readonly cert: Buffer;
  readonly key: Buffer;
}

/** Reads a certificate and its key. Throws with what is wrong of them. */
export function readCertificate({ certFile, keyFile }: CertificateFiles): Certificate {
  const [cert, key] = [readFileSync(certFile), readFileSync(keyFile)];
  const certificate = new X509Certificate(cert);
  if (!certificate.checkPrivateKey(createPrivateKey(key))) {
    throw new Error(`the key in ${keyFile} is not that of the certificate in ${certFile}`);
  }
  return { cert, key };
}

/** Has a server use new files as they come. What cannot be used is told, and the certificate before used on. Returns how to stop. */
export function followCertificate(server: HttpsServer, files: CertificateFiles, log: Logger): () => void {
  const renew = () => {
    try {
      const certificate = readCertificate(files);
      server.setSecureContext({ ...certificate, minVersion: "TLSv1.2" });
      const { validTo } = new X509Certificate(certificate.cert);
      log.info({ validTo }, "the certificate was read again");
    } catch (error) {
      log.error({ err: error }, "the new certificate cannot be used; the one before is used on");
    }
  };
  const names = [files.certFile, files.keyFile];
  for (const name of names) watchFile(name, { interval: LOOK_EVERY_MS, persistent: false }, renew);
  return () => {
    for (const name of names) unwatchFile(name, renew);
  };
}
