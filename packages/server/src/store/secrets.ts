import { createCipheriv, createDecipheriv, randomBytes, scrypt, timingSafeEqual } from 'node:crypto';
import {
  chmodSync,
  closeSync,
  fsyncSync,
  lstatSync,
  mkdirSync,
  openSync,
  readFileSync,
  renameSync,
  writeSync,
} from 'node:fs';
import { join } from 'node:path';

const KEY_BYTES = 32;
const KEY_TEXT = /^[A-Za-z0-9+/]{43}=$/;

/** Why a key file cannot be used, with what to do. */
export class KeyTrouble extends Error {}

/** Makes the data folder for its owner only, and takes away what others were allowed of an older one. */
export function openDataFolder(data: string): void {
  mkdirSync(data, { recursive: true, mode: 0o700 });
  chmodSync(data, 0o700);
}

/**
 * A key of this installation, made at the first start, readable by its owner only. A file that is there but does not hold
 * exactly one key of 32 bytes is refused: a short key could be guessed, and a new one would not open what is sealed.
 */
export function loadKey(data: string, name: string): Buffer {
  const path = join(data, `${name}.key`);
  if (lstatSync(path, { throwIfNoEntry: false }) === undefined) writeKey(path);
  const text = readFileSync(path, 'utf8').trim();
  const key = Buffer.from(text, 'base64');
  if (!KEY_TEXT.test(text) || key.length !== KEY_BYTES)
    throw new KeyTrouble(
      `${path} does not hold a key of ${KEY_BYTES} bytes. Put the file back from a back-up, or move it away to have a new one made${
        name === 'cookie' ? ' (everybody signs in again)' : ' (the switch account must be set again)'
      }.`,
    );
  chmodSync(path, 0o600);
  return key;
}

/** Written beside, synced, and renamed: a crash leaves a whole key or none. */
function writeKey(path: string): void {
  const beside = `${path}.new`;
  const file = openSync(beside, 'w', 0o600);
  writeSync(file, `${randomBytes(KEY_BYTES).toString('base64')}\n`);
  fsyncSync(file);
  closeSync(file);
  renameSync(beside, path);
}

/** AES-256-GCM: nonce, tag and text, base64 with dots between. */
export function seal(key: Buffer, text: string): string {
  const nonce = randomBytes(12);
  const cipher = createCipheriv('aes-256-gcm', key, nonce);
  const body = Buffer.concat([cipher.update(text, 'utf8'), cipher.final()]);
  return [nonce, cipher.getAuthTag(), body].map((b) => b.toString('base64')).join('.');
}

export function unseal(key: Buffer, sealed: string): string {
  const [nonce, tag, body] = sealed.split('.').map((p) => Buffer.from(p, 'base64'));
  const decipher = createDecipheriv('aes-256-gcm', key, nonce!);
  decipher.setAuthTag(tag!);
  return Buffer.concat([decipher.update(body!), decipher.final()]).toString('utf8');
}

/** scrypt with N = 2¹⁵, r = 8, p = 1 (32 MiB a try). */
const COST = { N: 2 ** 15, r: 8, p: 1, maxmem: 64 * 1024 * 1024 } as const;
const derive = (password: string, salt: Buffer): Promise<Buffer> =>
  new Promise((done, fail) => scrypt(password, salt, 32, COST, (error, key) => (error ? fail(error) : done(key))));

export async function hashPassword(password: string): Promise<{ salt: string; hash: string }> {
  const salt = randomBytes(16);
  return { salt: salt.toString('base64'), hash: (await derive(password, salt)).toString('base64') };
}

export async function passwordMatches(
  password: string,
  stored: { readonly salt: string; readonly hash: string },
): Promise<boolean> {
  return timingSafeEqual(
    await derive(password, Buffer.from(stored.salt, 'base64')),
    Buffer.from(stored.hash, 'base64'),
  );
}
