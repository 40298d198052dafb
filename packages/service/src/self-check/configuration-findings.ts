import { X509Certificate } from "node:crypto";
import { statSync } from "node:fs";
import { isIP } from "node:net";
import { resolve } from "node:path";
import { risksOf } from "../config/risks.ts";
import type { Config } from "../config/schema.ts";
import { readCertificate } from "../front-door/certificate.ts";
import { secretNamed } from "../machines/secrets.ts";
import { bad, type Finding, look, ok } from "./finding.ts";

/** What a valid configuration leaves open: risks, certificates, files of secrets. */
export function configurationFindings(config: Config, folder: string, nowMs: number): Finding[] {
  return [...riskFindings(config), ...certificateFindings(config, folder, nowMs), ...secretFindings(config, folder)];
}

function riskFindings(config: Config): Finding[] {
  const risks = risksOf(config, { isRoot: process.getuid?.() === 0 });
  if (risks.length === 0) return [ok("risks", "none that a start is refused for")];
  return risks.map(({ name, text }) => bad("risks", text, `set that, or start with --accept-risk ${name}`));
}

const DAY_MS = 86_400_000;
/** Whoever renews by itself does so a month ahead. */
const SOON_DAYS = 21;

function certificateFindings({ listen }: Config, folder: string, nowMs: number): Finding[] {
  if (listen.tls === undefined) return [];
  const check = "certificate";
  const [certFile, keyFile] = [resolve(folder, listen.tls.certFile), resolve(folder, listen.tls.keyFile)];
  try {
    const { cert } = readCertificate({ certFile, keyFile });
    const certificate = new X509Certificate(cert);
    const days = Math.floor((Date.parse(certificate.validTo) - nowMs) / DAY_MS);
    const renew = "put a new one in its place; the service takes it by itself";
    const name = listen.url === undefined ? undefined : new URL(listen.url).hostname;
    if (days < 0) return [bad(check, `${certFile} has ended ${-days} days ago`, renew)];
    if (name !== undefined && !isFor(certificate, name))
      return [bad(check, `${certFile} is not for ${name}, the name in listen.url`, "get one for that name")];
    return [
      days < SOON_DAYS ? look(check, `${certFile} ends in ${days} days`, renew) : ok(check, `it ends in ${days} days`),
    ];
  } catch (error) {
    return [bad(check, (error as Error).message, "see listen.tls")];
  }
}

function secretFindings({ secrets }: Config, folder: string): Finding[] {
  const names = Object.keys(secrets);
  const findings = names.flatMap((name) => secretFinding(name, secrets, folder));
  return findings.length > 0 || names.length === 0 ? findings : [ok("secrets", `${names.length} can be read`)];
}

function secretFinding(name: string, secrets: Config["secrets"], folder: string): Finding[] {
  const check = "secrets";
  const value = secretNamed(name, { secrets, folder });
  const where = secrets[name];
  if (value === undefined || where === undefined)
    return [bad(check, `${name} cannot be read`, `see secrets.${name}; what names it is not started or signed`)];
  if (value.trim() === "") return [bad(check, `${name} is empty`, `put the secret there: secrets.${name}`)];
  if ("environment" in where) return [];
  const file = resolve(folder, where.file);
  const isOpen = (statSync(file).mode & 0o007) !== 0;
  return isOpen ? [look(check, `everybody on this computer can read ${file}`, `chmod o-rwx ${file}`)] : [];
}

const isFor = (certificate: X509Certificate, name: string): boolean =>
  (isIP(name) === 0 ? certificate.checkHost(name) : certificate.checkIP(name)) !== undefined;
