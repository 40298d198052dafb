import { execFileSync } from "node:child_process";
import { join } from "node:path";

export interface TestCertificate {
  readonly certFile: string;
  readonly keyFile: string;
}

/** A certificate for this computer that signs itself, made with openssl. */
export function makeCertificate(folder: string, name = "localhost"): TestCertificate {
  const [certFile, keyFile] = [join(folder, `${name}.crt`), join(folder, `${name}.key`)];
  const names = `subjectAltName=DNS:${name},IP:127.0.0.1`;
  execFileSync(
    "openssl",
    [
      ...["req", "-x509", "-newkey", "ec", "-pkeyopt", "ec_paramgen_curve:P-256", "-nodes", "-days", "2"],
      ...["-subj", `/CN=${name}`, "-addext", names, "-keyout", keyFile, "-out", certFile],
    ],
    { stdio: "ignore" },
  );
  return { certFile, keyFile };
}
