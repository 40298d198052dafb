import { createCipheriv, createDecipheriv, randomBytes, scryptSync } from "node:crypto";
import { closeSync, createReadStream, createWriteStream, openSync, readSync, rmSync, statSync } from "node:fs";
import { Transform, type TransformCallback } from "node:stream";
import { pipeline } from "node:stream/promises";

/*
 * A sealed backup: the mark, a salt, a nonce, the file in AES-256-GCM (NIST SP 800-38D), and its tag of 16 bytes. The key
 * is made of the passphrase with scrypt (RFC 7914), N = 2^15, r = 8, p = 1.
 */
const MARK = Buffer.from("YHSEALED1\n");
const SALT = 16;
const NONCE = 12;
const TAG = 16;
const HEAD = MARK.length + SALT + NONCE;
const COST = { N: 32_768, r: 8, p: 1, maxmem: 67_108_864 };

/** A sealed file that does not open. */
export class SealError extends Error {
  readonly code = "passphrase-wrong";
}

const keyOf = (passphrase: string, salt: Buffer) => scryptSync(passphrase.normalize("NFC"), salt, 32, COST);

/** Seals what passes through it. */
export function sealing(passphrase: string): Transform {
  const salt = randomBytes(SALT);
  const nonce = randomBytes(NONCE);
  const cipher = createCipheriv("aes-256-gcm", keyOf(passphrase, salt), nonce);
  let isBegun = false;
  const begin = (to: Transform) => {
    if (!isBegun) to.push(Buffer.concat([MARK, salt, nonce]));
    isBegun = true;
  };
  return new Transform({
    transform(this: Transform, part: Buffer, _encoding, done: TransformCallback) {
      begin(this);
      done(null, cipher.update(part));
    },
    flush(this: Transform, done: TransformCallback) {
      begin(this);
      this.push(cipher.final());
      done(null, cipher.getAuthTag());
    },
  });
}

/** Whether a file is a sealed backup. */
export function isSealed(file: string): boolean {
  return readAt(file, 0, MARK.length).equals(MARK);
}

/** Opens a sealed file to another one, which is there only when all of it is as it was sealed. */
export async function unseal(file: string, passphrase: string, to: string): Promise<void> {
  const { size } = statSync(file);
  const head = readAt(file, 0, HEAD);
  const tag = readAt(file, Math.max(HEAD, size - TAG), TAG);
  const wrong = () => new SealError(`The passphrase is not that of ${file}, or the file is damaged.`);
  if (size < HEAD + TAG) throw wrong();
  const salt = head.subarray(MARK.length, MARK.length + SALT);
  const decipher = createDecipheriv("aes-256-gcm", keyOf(passphrase, salt), head.subarray(MARK.length + SALT));
  decipher.setAuthTag(tag);
  try {
    const sealed = createReadStream(file, { start: HEAD, end: size - TAG - 1 });
    await pipeline(sealed, decipher, createWriteStream(to, { flags: "wx", mode: 0o600 }));
  } catch (error) {
    rmSync(to, { force: true });
    throw (error as NodeJS.ErrnoException).code === undefined || /authenticate/.test((error as Error).message)
      ? wrong()
      : error;
  }
}

function readAt(file: string, at: number, length: number): Buffer {
  const bytes = Buffer.alloc(length);
  const handle = openSync(file, "r");
  try {
    return bytes.subarray(0, readSync(handle, bytes, 0, length, at));
  } finally {
    closeSync(handle);
  }
}
