import { createCipheriv, createDecipheriv, createHash, randomBytes } from 'node:crypto';
import {
  chmodSync,
  closeSync,
  existsSync,
  fsyncSync,
  mkdirSync,
  openSync,
  readFileSync,
  renameSync,
  rmSync,
  writeSync,
} from 'node:fs';
import { join } from 'node:path';
import { StartTrouble } from '../trouble.ts';

const KEY_BYTES = 32;
const KEY_TEXT = /^[A-Za-z0-9+/]{43}=$/;

/** Why a key file cannot be used, with what to do. */
export class KeyTrouble extends StartTrouble {}

/** Makes the data folder for its owner only, and takes away what others were allowed of an older one. */
export function openDataFolder(data: string): void {
  mkdirSync(data, { recursive: true, mode: 0o700 });
  chmodSync(data, 0o700);
}

export const sealingKeyPath = (data: string): string => join(data, 'secrets.key');
const nextKeyPath = (data: string): string => `${sealingKeyPath(data)}.next`;

/** Names a key without giving it away: what is sealed says by this which key it needs. */
export const keyId = (key: Buffer): string =>
  createHash('sha256').update('anthemion sealing key\n').update(key).digest('hex').slice(0, 12);

/** Reads a key file. Refused unless it holds exactly one key of 32 bytes: a short key could be guessed. */
export function readKey(path: string): Buffer {
  const text = readFileSync(path, 'utf8').trim();
  const key = Buffer.from(text, 'base64');
  if (!KEY_TEXT.test(text) || key.length !== KEY_BYTES)
    throw new KeyTrouble(
      `${path} does not hold a key of ${KEY_BYTES} bytes. Put the file back from where it is kept, or, if it is lost, run npm run rotate-key -- --lost (every stored secret must be given again).`,
    );
  chmodSync(path, 0o600);
  return key;
}

/** Written beside, synced, and renamed: a crash leaves a whole key or none. */
function writeKey(path: string, key: Buffer): void {
  const beside = `${path}.new`;
  const file = openSync(beside, 'w', 0o600);
  writeSync(file, `${key.toString('base64')}\n`);
  fsyncSync(file);
  closeSync(file);
  renameSync(beside, path);
}

/**
 * The sealing key of a data folder. `sealedWith` is the id of the key its data is sealed with, null while nothing is: then a
 * key is made. A key that is missing or another one than the data's is refused, and the data left alone.
 */
export function sealingKey(data: string, sealedWith: string | null): Buffer {
  const [path, next] = [sealingKeyPath(data), nextKeyPath(data)];
  // A rotation that was cut off: the data says whether it had come through.
  if (existsSync(next)) {
    if (sealedWith !== null && keyId(readKey(next)) === sealedWith) renameSync(next, path);
    else rmSync(next);
  }
  if (!existsSync(path)) {
    if (sealedWith !== null)
      throw new KeyTrouble(
        `${path} is missing, and the data is sealed with key ${sealedWith}. Put the file back from where it is kept, or, if it is lost, run npm run rotate-key -- --lost (every stored secret must be given again).`,
      );
    writeKey(path, randomBytes(KEY_BYTES));
  }
  const key = readKey(path);
  if (sealedWith !== null && keyId(key) !== sealedWith)
    throw new KeyTrouble(
      `${path} holds key ${keyId(key)}, but the data is sealed with key ${sealedWith}. Put the right file there, or, if it is lost, run npm run rotate-key -- --lost (every stored secret must be given again).`,
    );
  return key;
}

/** A fresh key beside the one in use; `take` puts it in its place once the data is sealed with it. */
export function nextKey(data: string): { readonly key: Buffer; readonly take: () => void } {
  const key = randomBytes(KEY_BYTES);
  writeKey(nextKeyPath(data), key);
  return { key, take: () => renameSync(nextKeyPath(data), sealingKeyPath(data)) };
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
